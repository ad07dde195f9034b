import { useState } from 'react'
import type { NewFollowUp } from '../../api/desk'
import type { Reminder } from '../../api/gen/followup'
import type { Moment } from '../../api/gen/when'
import { usePresets, useProposal } from '../../api/queries'
import { useMe } from '../../api/session'
import { addDays, dayOfWeek, due as dueText, today, weekdayOf } from '../../api/times'
import { TRAY, useCommands } from '../../frame/commands'
import { Checkbox } from '../../kit/checkbox'
import { type Chosen, dayOf, PhraseField } from '../../kit/phrase'
import { KeyButton } from '../../kit/pieces'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

interface Props {
  id?: number
  many: number
  onFlag: (f: NewFollowUp) => void
  onClose: () => void
}

const day = (n: number, zone: string): Moment => ({ at: 1, local: addDays(today(), n), zone })

/** The lightest follow-up: a day by one key, with a start and a reminder if wanted. The mail stays where it is. */
export function FlagTray({ id, many, onFlag, onClose }: Props) {
  const { data: proposal } = useProposal(many > 1 ? undefined : id)
  const week = useMe().week
  const { data: presets } = usePresets()
  const [start, setStart] = useState<Chosen | null>(null)
  const [remind, setRemind] = useState(false)
  const toSunday = (7 - dayOfWeek(today())) % 7
  const last =
    [...Array(7).keys()]
      .map((i) => toSunday - i)
      .find((n) => n >= 0 && week.workdays.includes(dayOfWeek(addDays(today(), n)))) ?? toSunday
  const ahead = presets?.find((p) => p.name === sentences.nextWeek)?.moment
  const choices = [
    { key: '1', name: sentences.today, due: day(0, week.zone) },
    { key: '2', name: sentences.tomorrow, due: day(1, week.zone) },
    { key: '3', name: sentences.thisWeek, due: day(last, week.zone) },
    { key: '4', name: sentences.nextWeekTitle, due: ahead ? dayOf(ahead) : day(toSunday + 1, week.zone) },
  ]
  const flag = (due: Moment) => {
    const reminders: Reminder[] | undefined = remind ? [{ at: { at: 0 }, of: 'due' }] : undefined
    onFlag({
      title: many > 1 ? '' : (proposal?.title ?? ''),
      due,
      start: start?.moment,
      priority: 5,
      keep: true,
      reminders,
    })
  }
  useCommands(
    choices.map((c) => ({ id: 'flag-' + c.key, keys: [c.key], run: () => flag(c.due), hidden: true })),
    TRAY,
  )
  return (
    <Tray label={sentences.flag} testid="flag-tray" layout="row" onClose={onClose}>
      <div>
        <p className="mb-1.5 text-[11.5px] font-[650] text-ink-500">
          {many > 1 ? sentences.flagTheseFor(many) : sentences.flagItFor}
        </p>
        <div className="flex flex-wrap gap-1.5">
          {choices.map((c) => (
            <KeyButton key={c.key} keyed={c.key} data-flag={c.name} onClick={() => flag(c.due)}>
              {c.name}
              <span className="font-normal text-ink-500">{c.name === 'Today' ? '' : weekdayOf(c.due.local!)}</span>
            </KeyButton>
          ))}
        </div>
      </div>
      <div className="min-w-44 flex-1">
        <PhraseField
          id="flag-day"
          label={sentences.orADay}
          placeholder={sentences.two4Dec}
          whole
          optional
          onChosen={() => {}}
          onAccept={(c) => flag(c.moment)}
          onCancel={onClose}
        />
      </div>
      <div className="min-w-40 flex-1">
        <PhraseField
          id="flag-start"
          label={start ? sentences.starts(dueText(start.moment)) : sentences.startsOptional}
          placeholder={sentences.mon}
          whole
          optional
          onChosen={setStart}
          onAccept={setStart}
          onCancel={onClose}
        />
      </div>
      <Checkbox checked={remind} onChange={(on) => setRemind(on)} className="mt-[27px]">
        {sentences.remindMeThatMorning}
      </Checkbox>
    </Tray>
  )
}
