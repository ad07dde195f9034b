import { Field } from '../../kit/field'
import { useState } from 'react'
import { Tray } from '../../kit/tray'
import { useMatching } from '../../api/queries'
import { date, addDays, today, startOf, dayKey } from '../../api/times'
import { Checkbox } from '../../kit/checkbox'
import { Button } from '../../kit/button'
import { useDesk } from '../../frame/desk'

const spans = [
  { name: 'a week', days: 7 },
  { name: 'two weeks', days: 14 },
  { name: 'a month', days: 30 },
  { name: 'three months', days: 91 },
  { name: 'a year', days: 365 },
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
      label="Fresh start"
      testid="fresh-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        if (n) start()
      }}
    >
      <div>
        <label htmlFor="fresh-date" className="mb-1 block text-[11.5px] font-[650] text-ink-500">
          Archive all that has had no message since
        </label>
        <div className="flex flex-wrap items-center gap-1.5">
          <Field
            id="fresh-date"
            label="Before which day"
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
              {s.name} ago
            </Button>
          ))}
        </div>
      </div>
      <Checkbox checked={stars} onChange={(on) => setStars(on)} className="pb-2">
        the starred stay
      </Checkbox>
      <div className="flex items-center gap-3">
        <Button type="submit" disabled={!n}>
          Archive {n.toLocaleString('en-GB')}
        </Button>
        <p className="max-w-sm text-[12.5px] text-ink-500" aria-live="polite">
          {data &&
            (n
              ? `${n.toLocaleString('en-GB')} from before ${date(before)}. One step takes it back; what gets a new message comes back by itself.`
              : `Nothing in the inbox is from before ${date(before)}.`)}
        </p>
      </div>
    </Tray>
  )
}
