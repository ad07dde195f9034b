import { useState } from 'react'
import { digits } from '../../api/digits'
import { useMatching } from '../../api/queries'
import { addDays, date, dayKey, startOf, today } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Field } from '../../kit/field'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.parts'

const spans = [
  { name: sentences.aWeek, days: 7 },
  { name: sentences.twoWeeks, days: 14 },
  { name: sentences.aMonth, days: 30 },
  { name: sentences.threeMonths, days: 91 },
  { name: sentences.aYear, days: 365 },
]
const ago = (days: number) => startOf(addDays(today(), -days))

/** Everything before a date is archived, in one step. */
export function FreshStartTray({ onClose }: { onClose: () => void }) {
  const { decide } = useDesk()
  const [before, setBefore] = useState(() => ago(14))
  const [stars, setStars] = useState(true) // the starred stay
  const { data } = useMatching({ before }, true)
  const n = data ? data.count - (stars ? data.starred : 0) : 0
  const start = () => {
    onClose()
    void decide({ kind: 'fresh-start', where: stars ? { before, unstarred: true } : { before } })
  }
  return (
    <Tray
      label={sentences.freshStart}
      testid="fresh-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        if (n) start()
      }}
    >
      <div>
        <label htmlFor="fresh-date" className="mb-1 block text-[11.5px] font-[650] text-ink-500">
          {sentences.archiveAllThatHas}
        </label>
        <div className="flex flex-wrap items-center gap-1.5">
          <Field
            id="fresh-date"
            label={sentences.beforeWhichDay}
            hideLabel
            autoFocus
            type="date"
            max={today()}
            value={dayKey(before)}
            onChange={(e) => {
              const at = e.target.value ? startOf(e.target.value) : NaN
              if (at) setBefore(at)
            }}
          />
          {spans.map((s) => (
            <Button size="small" ground="quiet" key={s.days} onClick={() => setBefore(ago(s.days))}>
              {sentences.ago(s.name)}
            </Button>
          ))}
        </div>
      </div>
      <Checkbox checked={stars} onChange={(on) => setStars(on)} className="pb-2">
        {sentences.theStarredStay}
      </Checkbox>
      <div className="flex items-center gap-3">
        <Button type="submit" disabled={!n}>
          {sentences.archive(digits(n))}
        </Button>
        <p className="max-w-sm text-[12.5px] text-ink-500" aria-live="polite">
          {data &&
            (n ? sentences.fromBeforeOneStep(digits(n), date(before)) : sentences.nothingInTheInbox(date(before)))}
        </p>
      </div>
    </Tray>
  )
}
