import { useState } from 'react'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { useOnce } from '../../kit/once'
import { sentences } from './sentences'

/** A line in which one more of something is written; what is wrong with it, as add says, stands below it. */
export function Adding({
  id,
  label,
  type,
  small,
  maxLength,
  add,
}: {
  id: string
  label: string
  type?: string
  small?: boolean
  maxLength?: number
  add: (text: string) => Promise<string | undefined>
}) {
  const [text, setText] = useState('')
  const [wrong, setWrong] = useState('')
  const finished = useFinished(id)
  const submit = useOnce(async () => {
    const no = await add(text.trim())
    setWrong(no ?? '')
    if (no) return
    finished()
    setText('')
  })
  return (
    <form
      className="flex max-w-xl items-start gap-2 py-1"
      onSubmit={(e) => {
        e.preventDefault()
        if (text.trim()) submit()
      }}
    >
      <Field
        id={id}
        label={label}
        hideLabel
        small={small}
        placeholder={label}
        type={type}
        maxLength={maxLength}
        className="min-w-0 flex-1"
        value={text}
        wrong={wrong}
        onChange={(e) => setText(e.target.value)}
      />
      <Button type="submit" quiet size={small ? 'small' : 'normal'} disabled={!text.trim()}>
        {sentences.add}
      </Button>
    </form>
  )
}
