import type { Settings } from '../../api/desk'
import {
  Danish,
  Dutch,
  French,
  German,
  Italian,
  Norwegian,
  Polish,
  Portuguese,
  Spanish,
  Swedish,
} from '../../api/gen/when'
import { weekdays } from '../../api/times'
import { useChoice, useChoosing } from '../../frame/choosing'
import { Checkbox } from '../../kit/checkbox'
import { RadioGroup, Toggle } from '../../kit/choose'
import { SavedField } from '../../kit/saved'
import { clock, minutes } from '../../api/clock'
import { Choosing, Part } from './part'
import { sentences } from './sentences'

const days = weekdays('short')
const languages = [German, French, Spanish, Italian, Dutch, Danish, Norwegian, Swedish, Portuguese, Polish]
const named = new Intl.DisplayNames('en', { type: 'language' })
const starts = { 6: 'saturday', 0: 'sunday', 1: 'monday' } as const

/** When mornings begin, the days one works on, the zone and the clock. */
export function Week({ settings: { week } }: { settings: Settings }) {
  const choose = useChoosing()
  const choice = useChoice()
  const reads = week.languages ?? []
  const part = (key: 'morning' | 'midday' | 'evening', label: string) => (
    <SavedField
      id={key}
      label={label}
      value={clock(week[key])}
      placeholder="8:00"
      onSave={(text) => {
        const at = minutes(text)
        return at < 0 ? Promise.resolve(sentences.noTimeOfDay(text)) : choose({ week: { [key]: at } })
      }}
    />
  )
  return (
    <Part id="week" name={sentences.yourWeek} about={sentences.tomorrowAfterLunchAnd}>
      <div className="grid grid-cols-4 items-start gap-3 max-[700px]:grid-cols-2">
        {part('morning', sentences.morningBegins)}
        {part('midday', sentences.middayBegins)}
        {part('evening', sentences.eveningBegins)}
        <SavedField
          id="zone"
          label={sentences.timeZone}
          value={week.zone}
          onSave={(zone) => choose({ week: { zone } })}
        />
      </div>
      <Choosing name={sentences.youWorkOn}>
        {[1, 2, 3, 4, 5, 6, 0].map((d) => (
          <Toggle
            key={d}
            on={week.workdays.includes(d)}
            onChange={(on) =>
              void choice({
                week: { workdays: on ? [...week.workdays, d].sort() : week.workdays.filter((x) => x !== d) },
              })
            }
          >
            {days[d]}
          </Toggle>
        ))}
      </Choosing>
      <Choosing name={sentences.weeksBeginOn}>
        <RadioGroup
          label={sentences.weeksBeginOn}
          value={week.first ?? 'monday'}
          options={([6, 0, 1] as const).map((d) => ({ id: starts[d], name: days[d] }))}
          onChange={(first) => void choice({ week: { first } })}
        />
      </Choosing>
      <Choosing name={sentences.timesAreReadIn}>
        {languages.map((l) => (
          <Toggle
            key={l}
            on={reads.includes(l)}
            onChange={(on) => void choice({ week: { languages: on ? [...reads, l] : reads.filter((x) => x !== l) } })}
          >
            {named.of(l)}
          </Toggle>
        ))}
      </Choosing>
      <Checkbox
        checked={week.twelveHour}
        onChange={(twelveHour) => void choice({ week: { twelveHour } })}
        className="mt-4"
      >
        {sentences.timesAsAmAnd}
      </Checkbox>
    </Part>
  )
}
