import { type ReactNode, useState } from 'react'
import type { Written } from '../../api/gen/followup'
import type { Moment } from '../../api/gen/when'
import { useFollowUpSettings, useGrid, useLabels, usePresets } from '../../api/queries'
import { Button } from '../../kit/button'
import { RadioGroup, Toggle } from '../../kit/choose'
import { inWords } from '../../kit/parts'
import { sentences } from './sentences.trays'
import { WeekGrid } from './snooze'

const FEW = 6
const times = [
  { id: 'due', name: sentences.dueShort, before: '' },
  { id: 'start', name: sentences.startsShort, before: 'start ' },
  { id: 'remind', name: sentences.remindsShort, before: 'remind ' },
]
const efforts = ['10 min', '30 min', '1 h', '2 h']

/** All that a line can say of a follow-up, by click: each press writes its part into the line, and pressed again takes it out. */
export function Picker({ written, say }: { written: Written | null; say: (kind: string, words: string) => void }) {
  const [which, setWhich] = useState('due')
  const days = useGrid().data
  const presets = usePresets().data
  const settings = useFollowUpSettings().data
  const labels = useLabels().data
  const f = written?.followUp
  const time = times.find((t) => t.id === which)!
  const pick = (m: Moment) => say(which, time.before + inWords(m.local ?? ''))
  const chosen = which === 'due' ? f?.due.at : which === 'start' ? f?.start.at : f?.reminders?.at(-1)?.at.at
  const has = (kind: string, words: string) =>
    !!written?.parts.some((p) => p.kind === kind && (p.text === words || p.means === words))
  return (
    <div
      className="col-span-full grid grid-cols-[minmax(260px,1fr)_minmax(320px,1.25fr)] gap-x-6 gap-y-1.5 border-t border-sand-200 pt-2 max-[900px]:grid-cols-1"
      data-testid="picker"
      role="group"
      aria-label={sentences.byClick}
    >
      <div className="grid content-start gap-1.5">
        <Row name={sentences.projectsShort}>
          {settings?.projects
            .filter((p) => !p.includes('/'))
            .slice(0, FEW)
            .map((p) => (
              <Toggle key={p} on={has('project', 'project ' + p)} onChange={() => say('project', 'project ' + p)}>
                {p}
              </Toggle>
            ))}
        </Row>
        <Row name={sentences.labelsShort}>
          {labels
            ?.filter((l) => !l.path.includes('/'))
            .slice(0, FEW)
            .map((l) => (
              <Toggle key={l.id} on={has('label', 'label ' + l.path)} onChange={() => say('label', 'label ' + l.path)}>
                {l.path}
              </Toggle>
            ))}
        </Row>
        <Row name={sentences.efforts}>
          {efforts.map((e) => (
            <Toggle key={e} on={has('effort', e)} onChange={() => say('effort', e)}>
              {e}
            </Toggle>
          ))}
        </Row>
      </div>
      <div className="min-w-0">
        <div className="mb-1.5 flex flex-wrap items-center gap-x-3 gap-y-1">
          <RadioGroup
            label={sentences.whichTime}
            look="plain"
            value={which}
            options={times.map(({ id, name }) => ({ id, name }))}
            onChange={setWhich}
          />
          {presets?.slice(0, 4).map((p) => (
            <Button key={p.name} size="small" ground="quiet" data-pick={p.name} onClick={() => pick(p.moment)}>
              {p.name}
            </Button>
          ))}
        </div>
        {days && <WeekGrid days={days} chosen={chosen} verb={time.id === 'due' ? 'due' : time.id} onPick={pick} />}
      </div>
    </div>
  )
}

const Row = ({ name, children }: { name: string; children: ReactNode }) => (
  <div className="flex flex-wrap items-center gap-1 text-[12px]">
    <span className="w-16 shrink-0 text-ink-500">{name}</span>
    {children}
  </div>
)
