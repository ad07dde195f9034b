import { useQuery } from '@tanstack/react-query'
import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { get } from '../../api/client'
import type { Learned } from '../../api/desk'
import { digits } from '../../api/digits'
import { useMisses } from '../../api/queries'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { sentences } from './sentences'

const enough = 20 // pairs, below which a part of them says nothing

/** How far what Ebbe claims of one's mail has been true: each in a sentence, with its figures below. */
export const Proof = () => (
  <>
    <Importance />
    <DaysEnd />
  </>
)

const Claim = ({ name, children }: { name: string; children: ReactNode }) => (
  <section aria-label={name} className="min-w-0 border-t-2 border-ink-900 pt-2">
    <h2 className="mb-1 text-[13.5px] font-[650]">{name}</h2>
    {children}
  </section>
)

const percent = (part: number) => Math.round(100 * part)

/** Of pairs of messages, how often importance put first the one that was acted on, beside the fixed order and chance. */
function Importance() {
  const { data, error, refetch } = useQuery({
    queryKey: ['learned'],
    queryFn: () => get<Learned>('/learned'),
    staleTime: 0, // it is learned by itself
  })
  const rows = data && [
    { name: sentences.whatEbbeHasLearned, right: percent(data.proof.right), ours: true },
    { name: sentences.kindAndAddress, right: percent(data.proof.fixed) },
    { name: sentences.chance, right: 50 },
  ]
  return (
    <Claim name={sentences.whatMattersFirst}>
      {error && <Failed error={error} again={() => void refetch()} />}
      {!data && !error && <Loading what={sentences.loading} />}
      {data && (
        <p data-testid="importance-proof">
          {data.proof.pairs < enough
            ? sentences.notEnoughPairs(data.weeks)
            : sentences.inOrder(
                digits(data.proof.pairs),
                data.weeks,
                percent(data.proof.right),
                percent(data.proof.fixed),
              )}
        </p>
      )}
      {rows && data.proof.pairs >= enough && (
        <table className="mt-3 w-full border-collapse text-[12.5px]" data-testid="importance-table">
          <thead className="sr-only">
            <tr>
              <th scope="col">{sentences.orderedBy}</th>
              <th scope="col">{sentences.rightOf100}</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((r) => (
              <tr key={r.name}>
                <th scope="row" className="w-44 py-1 pr-3 text-left font-normal">
                  {r.name}
                </th>
                <td className="py-1">
                  <span className="flex items-center gap-2">
                    <span
                      aria-hidden
                      className={'h-3.5 rounded-[3px] ' + (r.ours ? 'bg-accent' : 'bg-sand-300')}
                      style={{ width: `${0.85 * r.right}%` }}
                    />
                    <span className="tabular-nums">{r.right}</span>
                  </span>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
      <p className="mt-3 text-[12.5px] text-ink-500">
        {sentences.howItWasLearned}{' '}
        <Link to="/setup/learned" className="text-accent underline">
          {sentences.whatEbbeHasLearned}
        </Link>
      </p>
    </Claim>
  )
}

/** How far off the dayline's forecast was at the day's end. */
function DaysEnd() {
  const { data, error, refetch } = useMisses(true)
  const tenths = (n: number) => Math.round(10 * n) / 10
  return (
    <Claim name={sentences.theEndOfTheDay}>
      {error && <Failed error={error} again={() => void refetch()} />}
      {!data && !error && <Loading what={sentences.loading} />}
      {data && (
        <p data-testid="forecast-proof">
          {data.days === 0
            ? sentences.tooLittle
            : sentences.wasOffBy(tenths(data.median), data.days, tenths(data.bias))}
        </p>
      )}
    </Claim>
  )
}
