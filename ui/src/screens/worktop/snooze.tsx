import { HourglassIcon, MapPinIcon, PackageIcon, WavesIcon } from '@phosphor-icons/react'
import { useRef, useState } from 'react'
import { put } from '../../api/client'
import type { SiteView, Slip } from '../../api/desk'
import { digits } from '../../api/digits'
import type { Until } from '../../api/gen/inbox'
import type { Cell, Day, Moment } from '../../api/gen/when'
import { client, useConversation, useGrid, usePresets, useSites } from '../../api/queries'
import { addDays, clock, date, dayKey, daysAway, long, plural, startOf, weekday } from '../../api/times'
import { Button, CardButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Field, TextArea } from '../../kit/field'
import { Notice } from '../../kit/notice'
import { type Chosen, PhraseField } from '../../kit/phrase'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

const parts = [sentences.morning, sentences.midday, sentences.evening]
const FULL = 6

/** Until when, or until what, something is snoozed. */
export interface Snoozed {
  return?: Moment
  until?: Until
  site?: number
  text?: string // a word to whoever wrote it
}

interface Props {
  slip?: Slip
  many: number
  onSnooze: (s: Snoozed) => void
  onClose: () => void
}

/** When should it come back? In words first, by a part of the week, or without a date. */
export function SnoozeTray({ slip, many, onSnooze, onClose }: Props) {
  const { data: days } = useGrid()
  const { data: presets } = usePresets()
  const facts = useConversation(slip?.id).data?.facts
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [unless, setUnless] = useState(slip?.position.until === 'unless')
  const [word, setWord] = useState<string>()
  const until = (m: Moment) => onSnooze({ return: m, until: unless ? 'unless' : '', text: word })
  const at =
    slip?.position.place === 'snoozed' && slip.position.return.at
      ? sentences.itComesBackWhen(long(slip.position.return.at))
      : sentences.whenShouldItCome
  return (
    <Tray label={sentences.snooze} testid="snooze-tray" layout="thirds" onClose={onClose}>
      <div>
        <PhraseField
          id="snooze-phrase"
          label={many > 1 ? sentences.whenShouldTheseCome(digits(many)) : at}
          placeholder={sentences.friAfterLunch}
          autoFocus
          onChosen={setChosen}
          onAccept={(c) => (c.someday ? onSnooze({ until: 'someday', text: word }) : until(c.moment))}
          onCancel={onClose}
        />
        <ul className="grid grid-cols-2 gap-1 text-[12px]" aria-label={sentences.offered}>
          {presets?.map((p) => (
            <li key={p.name}>
              <Button size="line" quiet spread data-preset={p.name} onClick={() => until(p.moment)}>
                <span className="truncate">{p.name}</span>{' '}
                <span className="whitespace-nowrap text-ink-500">
                  {daysAway(p.moment.at) < 1
                    ? clock(p.moment.at)
                    : `${daysAway(p.moment.at) < 7 ? weekday(p.moment.at) : date(p.moment.at).replace(/^\w+ /, '')} ${clock(p.moment.at)}`}
                </span>
              </Button>
            </li>
          ))}
        </ul>
        <Checkbox checked={unless} onChange={(on) => setUnless(on)} className="mt-2">
          {sentences.onlyIfNobodyHas}
        </Checkbox>
        {many <= 1 && slip?.kind === 'person' && (
          <Checkbox
            id="snooze-tell"
            checked={word !== undefined}
            onChange={(on) => setWord(on ? sentences.thankYouForYour : undefined)}
            className="mt-1"
          >
            <span className="truncate">{sentences.tellWhen(slip.from)}</span>
          </Checkbox>
        )}
        {word !== undefined && (
          <TextArea
            label={sentences.whatTheyAreTold}
            hideLabel
            small
            className="mt-1"
            rows={2}
            maxLength={900}
            value={word}
            onChange={(e) => setWord(e.target.value)}
          />
        )}
      </div>
      <div className="min-w-0">
        <h2 className="mb-[5px] text-[11.5px] text-ink-500">{sentences.orPickAPart}</h2>
        {days && <WeekGrid days={days} chosen={chosen?.moment.at} onPick={until} />}
      </div>
      <WithoutDate
        arrives={many > 1 ? undefined : facts?.find((f) => f.arrives)?.arrives}
        onSnooze={(s) => onSnooze({ ...s, text: word })}
      />
    </Tray>
  )
}

const choice = 'flex! items-center gap-2 py-[3px]!'

/** What has no time: an arrival, an answer, a place, someday. */
function WithoutDate({ arrives, onSnooze }: { arrives?: Moment; onSnooze: (s: Snoozed) => void }) {
  const { data } = useSites()
  const [naming, setNaming] = useState(false)
  const [name, setName] = useState('')
  const [wrong, setWrong] = useState('')
  const add = async () => {
    try {
      const site = await put<SiteView>('/places', { id: 0, name })
      void client.invalidateQueries({ queryKey: ['places'] })
      onSnooze({ until: 'site', site: site.id })
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  return (
    <div className="min-w-0 text-[12.5px]">
      <h2 className="mb-[3px] text-[11.5px] text-ink-500">{sentences.withoutADate}</h2>
      <ul>
        {arrives && (
          <li>
            <CardButton
              small
              look="bare"
              className={choice}
              data-until="arrival"
              onClick={() => onSnooze({ until: 'arrival', return: arrives })}
            >
              <PackageIcon size={15} className="shrink-0" aria-hidden />
              <span className="min-w-0">
                {sentences.untilItArrives}{' '}
                <span className="text-ink-500">{sentences.atTheLatest(long(arrives.at))}</span>
              </span>
            </CardButton>
          </li>
        )}
        <li>
          <CardButton
            small
            look="bare"
            className={choice}
            data-until="answer"
            onClick={() => onSnooze({ until: 'answer' })}
          >
            <HourglassIcon size={15} aria-hidden />
            {sentences.whenSomebodyAnswers}
          </CardButton>
        </li>
        {data?.sites.map((s) => (
          <li key={s.id}>
            <CardButton
              small
              look="bare"
              className={choice}
              data-until="site"
              onClick={() => onSnooze({ until: 'site', site: s.id })}
            >
              <MapPinIcon size={15} className="shrink-0" aria-hidden />
              <span className="truncate" title={sentences.whenIAmAt(s.name)}>
                <span className="sr-only">{sentences.whenIAm} </span>
                {sentences.at(s.name)}
              </span>
            </CardButton>
          </li>
        ))}
        <li>
          {naming ? (
            <form
              className="flex items-center gap-1.5 px-1.5 py-[3px]"
              onSubmit={(e) => {
                e.preventDefault()
                void add()
              }}
            >
              <MapPinIcon size={15} className="shrink-0" aria-hidden />
              <Field
                autoFocus
                label={sentences.whenIAmAtTitle}
                hideLabel
                small
                placeholder={sentences.theWorkshop}
                value={name}
                maxLength={60}
                onChange={(e) => {
                  setName(e.target.value)
                  setWrong('')
                }}
                className="min-w-0 flex-1"
              />
            </form>
          ) : (
            <CardButton small look="bare" className={choice} onClick={() => setNaming(true)}>
              <MapPinIcon size={15} aria-hidden />
              {sentences.whenIAmAtAsk}
            </CardButton>
          )}
          {wrong && <Notice>{wrong}</Notice>}
        </li>
        <li>
          <CardButton
            small
            look="bare"
            className={choice}
            data-until="someday"
            onClick={() => onSnooze({ until: 'someday' })}
          >
            <WavesIcon size={15} aria-hidden />
            {sentences.someday}
          </CardButton>
        </li>
      </ul>
    </div>
  )
}

/** The coming week by parts of the day, with what comes back and is due in each. */
export function WeekGrid({
  days,
  chosen,
  verb = 'back',
  onPick,
}: {
  days: Day[]
  chosen?: number
  verb?: string
  onPick: (m: Moment) => void
}) {
  const grid = useRef<HTMLDivElement>(null)
  const move = (e: React.KeyboardEvent) => {
    const step = { ArrowLeft: [0, -1], ArrowRight: [0, 1], ArrowUp: [-1, 0], ArrowDown: [1, 0] }[e.key]
    const at = (e.target as HTMLElement).dataset.cell?.split(',').map(Number)
    if (!step || !at) return
    e.preventDefault()
    e.stopPropagation()
    for (
      let [p, d] = [at[0] + step[0], at[1] + step[1]];
      p >= 0 && p < 3 && d >= 0 && d < 7;
      p += step[0], d += step[1]
    ) {
      const cell = grid.current?.querySelector<HTMLButtonElement>(`[data-cell="${p},${d}"]:not(:disabled)`)
      if (cell) return cell.focus()
    }
  }
  const inside = (d: number, p: number) => {
    if (
      !chosen ||
      chosen < days[d].start ||
      (days[d + 1] && chosen >= days[d + 1].start) ||
      (!days[d + 1] && chosen >= startOf(addDays(dayKey(days[d].start), 1)))
    )
      return false
    return (p === 0 || chosen >= days[d].cells[p].moment.at) && (p === 2 || chosen < days[d].cells[p + 1].moment.at)
  }
  return (
    // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- arrow keys of the cells in it
    <div
      ref={grid}
      role="group"
      aria-label={sentences.theComingWeek}
      onKeyDown={move}
      className="grid grid-cols-[64px_repeat(7,minmax(0,1fr))] gap-[3px] text-[11px] max-[700px]:grid-cols-[52px_repeat(7,minmax(0,1fr))]"
    >
      <span />
      {days.map((d) => (
        <span key={d.start} className="pb-px text-center font-semibold text-ink-500" title={date(d.start)}>
          {weekday(d.start)}
        </span>
      ))}
      {parts.map((name, p) => [
        <span key={name} className="pr-1.5 text-right leading-[25px] text-ink-500">
          {name}
        </span>,
        ...days.map((d, i) => (
          <GridCell
            key={`${p},${i}`}
            at={`${p},${i}`}
            name={name}
            verb={verb}
            cell={d.cells[p]}
            picked={inside(i, p)}
            onPick={onPick}
          />
        )),
      ])}
    </div>
  )
}

function GridCell({
  at,
  name,
  verb,
  cell,
  picked,
  onPick,
}: {
  at: string
  name: string
  verb: string
  cell: Cell
  picked: boolean
  onPick: (m: Moment) => void
}) {
  const load = cell.back + cell.due
  const full = load >= FULL
  const there =
    load === 0
      ? sentences.nothingWaitsThere
      : sentences.backDue(plural(cell.back, sentences.thing), cell.due, full ? sentences.full : '')
  const label = `${date(cell.moment.at)} ${name.toLowerCase()}, ${verb} ${long(cell.moment.at)}. ${there}`
  if (cell.past) return <span className="h-[25px] rounded-[5px] border border-dashed border-sand-200" />
  return (
    <CardButton
      cell
      look={picked ? 'picked' : full ? 'late' : 'sand'}
      data-cell={at}
      aria-label={label}
      title={label}
      onClick={() => onPick(cell.moment)}
    >
      {load > 12 ? (
        <b className={picked ? 'text-white' : 'text-coral-600'}>{load}</b>
      ) : (
        Array.from({ length: load }, (_, i) => (
          <i
            key={i}
            className={`h-[11px] w-1 rounded-[1px] ${picked ? 'bg-white' : full ? 'bg-coral-600' : 'bg-tide-400'}`}
          />
        ))
      )}
    </CardButton>
  )
}
