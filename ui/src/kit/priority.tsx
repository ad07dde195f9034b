import { RadioGroup } from './choose'
import { priorities, priorityName, Waves } from './kit'

interface Props {
  value: number
  disabled?: boolean
  className?: string
  onChange: (priority: number) => void
}

/** How urgent something is, by its waves and in a word. */
export const PriorityGroup = (props: Props) => (
  <RadioGroup
    label="Priority"
    look="plain"
    options={priorities.map((p) => ({
      id: p,
      name: (
        <>
          <Waves priority={p} />
          {priorityName(p)}
        </>
      ),
    }))}
    {...props}
  />
)
