import { digits } from '../../api/digits'
import { cx } from '../../kit/cx'
import { TextLink } from './more'
import { Panel } from './panel'
import { sentences } from './sentences'

interface Props {
  name: string
  counts: number[]
  of: string // what it is the age of, as the list behind it is asked for
  testid: string
  file: string
}

const ages = [
  sentences.ageToday,
  sentences.ageThreeDays,
  sentences.ageWeek,
  sentences.ageFourWeeks,
  sentences.ageQuarter,
  sentences.ageLonger,
]
const shades = ['bg-tide-100', 'bg-tide-200', 'bg-tide-400', 'bg-fill', 'bg-amber-600', 'bg-coral-600']

/** For how long what is open has been open. */
export function Ages({ name, counts, of, testid, file }: Props) {
  const all = counts.reduce((a, b) => a + b, 0)
  const old = counts[4] + counts[5]
  return (
    <Panel
      name={name}
      testid={testid}
      file={file}
      says={all ? sentences.olderThanFour(digits(all), digits(old)) : sentences.nothingOpen}
      behind={{ head: [sentences.since, sentences.howMany], rows: ages.map((a, i) => [a, counts[i]]) }}
    >
      {all > 0 && (
        <>
          <div className="flex h-4 overflow-hidden rounded-[5px]" aria-hidden>
            {counts.map((n, i) => n > 0 && <span key={i} className={shades[i]} style={{ flexGrow: n }} />)}
          </div>
          <ul className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1 text-[12.5px]">
            {counts.map(
              (n, i) =>
                n > 0 && (
                  <li key={i} className="flex items-center gap-1.5">
                    <span aria-hidden className={cx('size-2.5 rounded-[3px]', shades[i])} />
                    {ages[i]}
                    <TextLink
                      to={`/numbers/aged?group=${i}&of=${of}&name=${encodeURIComponent(name + ': ' + ages[i])}`}
                    >
                      {digits(n)}
                    </TextLink>
                  </li>
                ),
            )}
          </ul>
        </>
      )}
    </Panel>
  )
}
