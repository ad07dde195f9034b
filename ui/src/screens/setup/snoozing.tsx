import type { Settings } from '../../api/desk'
import { useChoice, useChoosing } from '../../frame/choosing'
import { Checkbox } from '../../kit/checkbox'
import { SavedField } from '../../kit/saved'
import { named, Select } from '../../kit/select'
import { swipeNames, swipesOf } from '../worktop/swipes'
import { Part } from './part'
import { sentences } from './sentences'

const swipes = [
  ['swipe-left', 'left', 'swipeLeft', sentences.swipeToTheLeft],
  ['swipe-left-far', 'leftFar', 'swipeLeftFar', sentences.farToTheLeft],
  ['swipe-right', 'right', 'swipeRight', sentences.swipeToTheRight],
  ['swipe-right-far', 'rightFar', 'swipeRightFar', sentences.farToTheRight],
] as const

/** What brings back a snoozed conversation, when someday is, and what swipes do. */
export function Snoozing({ settings: { habits } }: { settings: Settings }) {
  const choose = useChoosing()
  const choice = useChoice()
  return (
    <Part id="habits" name={sentences.snoozingAndSwiping}>
      <Checkbox checked={!habits.asleep} onChange={(on) => void choice({ habits: { asleep: !on } })}>
        {sentences.aNewMessageBrings}
      </Checkbox>
      <SavedField
        id="someday"
        className="mt-4 max-w-64"
        label={sentences.somedayIsLookedThrough}
        type="number"
        min={1}
        max={28}
        value={String(habits.someday || 1)}
        onSave={(text) => choose({ habits: { someday: Number(text) } })}
      />
      <div className="mt-4 grid grid-cols-4 gap-3 max-[700px]:grid-cols-2">
        {swipes.map(([id, way, key, label]) => (
          <Select
            key={id}
            id={id}
            label={label}
            value={swipesOf(habits)[way]}
            options={named(swipeNames)}
            onChange={(to) => void choice({ habits: { [key]: to } })}
          />
        ))}
      </div>
    </Part>
  )
}
