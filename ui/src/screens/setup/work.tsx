import { newKey } from '../../api/client'
import type { Settings } from '../../api/desk'
import type { Meaning, Stage } from '../../api/gen/followup'
import { useChoice, useChoosing } from '../../frame/choosing'
import { IconButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { SavedField } from '../../kit/saved'
import { Select } from '../../kit/select'
import { Adding } from './adding'
import { clock, minutes } from '../../api/clock'
import { Choosing, Part } from './part'
import { sentences } from './sentences'

const means: [Meaning, string][] = [
  ['mine', 'mine'],
  ['others', sentences.withOthers],
  ['finished', 'finished'],
]

/** The stages of the board, closing the day, and what finishing does. */
export function Work({ settings: { followUp } }: { settings: Settings }) {
  const choose = useChoosing()
  const choice = useChoice()
  return (
    <Part id="work" name={sentences.followUps}>
      <Checkbox checked={!followUp.keep} onChange={(on) => void choice({ followUp: { keep: !on } })}>
        {sentences.finishingArchivesThe}
      </Checkbox>
      <div className="mt-4 flex flex-wrap items-end gap-x-6 gap-y-2">
        <SavedField
          id="close-at"
          label={sentences.closeTheDayAt}
          className="w-40"
          placeholder="17:00"
          value={followUp.closeAt < 0 ? '' : clock(followUp.closeAt)}
          onSave={(text) => {
            const at = minutes(text)
            return text && at < 0
              ? Promise.resolve(sentences.noTimeOfDay(text))
              : choose({ followUp: { closeAt: text ? at : -1 } })
          }}
        />
        <Checkbox
          checked={followUp.closeAt < 0}
          className="pb-2"
          onChange={(on) => void choice({ followUp: { closeAt: on ? -1 : 17 * 60 } })}
        >
          {sentences.onlyWhenIAsk}
        </Checkbox>
      </div>
      <Choosing name={sentences.stagesOfTheBoard}>
        <Stages stages={followUp.stages} />
      </Choosing>
    </Part>
  )
}

function Stages({ stages }: { stages: Stage[] }) {
  const choose = useChoosing()
  const choice = useChoice()
  const changed = (i: number, patch: Partial<Stage>) => ({
    followUp: { stages: stages.map((s, j) => (j === i ? { ...s, ...patch } : s)) },
  })
  const move = (i: number, by: number) => {
    const next = [...stages]
    const [s] = next.splice(i, 1)
    next.splice(i + by, 0, s)
    void choice({ followUp: { stages: next } })
  }
  return (
    <ul aria-label={sentences.stages} className="w-full max-w-xl">
      {stages.map((s, i) => (
        <li key={s.id} className="flex flex-wrap items-center gap-x-2 gap-y-1 border-b border-sand-200 py-1">
          <SavedField
            id={'stage-' + s.id}
            label={sentences.nameOfStage(i + 1)}
            hideLabel
            small
            value={s.name}
            maxLength={40}
            className="min-w-28 flex-1"
            onSave={(text) => choose(changed(i, { name: text }))}
          />
          <Select
            label={sentences.whatMeans(s.name)}
            hideLabel
            small
            className="max-w-full min-w-0"
            value={s.means}
            options={means.map(([id, name]) => ({ id, name }))}
            onChange={(m) => void choice(changed(i, { means: m }))}
          />
          <IconButton label={sentences.moveUp(s.name)} disabled={i === 0} onClick={() => move(i, -1)}>
            ↑
          </IconButton>
          <IconButton label={sentences.moveDown(s.name)} disabled={i === stages.length - 1} onClick={() => move(i, 1)}>
            ↓
          </IconButton>
          <IconButton
            label={sentences.deleteNamed(s.name)}
            late
            onClick={() => void choice({ followUp: { stages: stages.filter((_, j) => j !== i) } })}
          >
            ×
          </IconButton>
        </li>
      ))}
      <li>
        <Adding
          id="new-stage"
          label={sentences.aNewStage}
          small
          maxLength={40}
          add={(name) => {
            const made: Stage = { id: newKey(), name, means: 'mine' }
            return choose({ followUp: { stages: [...stages.slice(0, -1), made, ...stages.slice(-1)] } })
          }}
        />
      </li>
    </ul>
  )
}
