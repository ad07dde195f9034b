import { type InputHTMLAttributes, type KeyboardEvent, useRef, useState } from 'react'
import { Field } from './field'
import { useFinished } from './keeping'

/**
 * A field that is saved as one leaves it, or with Enter. onSave gives what is wrong, which then stands below it with
 * what was typed left as it is; Escape brings back what stood there.
 */
export function SavedField({
  id,
  value,
  onSave,
  ...rest
}: {
  id: string
  label: string
  hideLabel?: boolean
  small?: boolean
  className?: string
  value: string
  onSave: (text: string) => Promise<string | undefined>
} & Pick<InputHTMLAttributes<HTMLInputElement>, 'type' | 'min' | 'max' | 'maxLength' | 'placeholder' | 'inputMode'>) {
  const [text, setText] = useState<string>() // as typed; undefined: as it stands
  const [wrong, setWrong] = useState('')
  const asked = useRef<string>(undefined)
  const latest = useRef<string>(undefined)
  const type = (typed?: string) => {
    latest.current = typed
    setText(typed)
  }
  const finished = useFinished(id)
  const leave = () => {
    finished()
    type()
    setWrong('')
  }
  const save = async () => {
    if (text === undefined || text === asked.current) return
    if (text.trim() === value) return leave()
    asked.current = text
    const no = await onSave(text.trim())
    asked.current = undefined
    if (no) return setWrong(no)
    setWrong('')
    if (latest.current === text) leave() // else it has been typed in since
  }
  const press = (e: KeyboardEvent) => {
    if (e.nativeEvent.isComposing) return
    if (e.key === 'Enter') {
      e.preventDefault()
      void save()
    }
    if (e.key === 'Escape' && text !== undefined) {
      e.stopPropagation()
      leave()
    }
  }
  return (
    <Field
      id={id}
      {...rest}
      value={text ?? value}
      wrong={wrong}
      onChange={(e) => type(e.target.value)}
      onBlur={() => void save()}
      onKeyDown={press}
    />
  )
}
