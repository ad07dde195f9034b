import { useQueryClient } from '@tanstack/react-query'
import { useState } from 'react'
import { put, told } from '../../api/client'
import { Keeps, useKept } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { TextArea } from '../../kit/field'
import { useOnce } from '../../kit/once'
import { sentences } from './sentences'

/** What the reader has noted about somebody, which is changed in its place. */
export function Remark({ address, text }: { address: string; text: string }) {
  const kept = useKept()
  const client = useQueryClient()
  const name = 'remark-' + address
  const [typed, setTyped] = useState(text)
  const [open, setOpen] = useState(false)
  const [wrong, setWrong] = useState('')
  const done = () => {
    kept.forget(name)
    setOpen(false)
    setWrong('')
  }
  const save = useOnce(() =>
    put('/person/note', { address, text: typed })
      .then(() => {
        done()
        return client.invalidateQueries({ queryKey: ['person', address] })
      })
      .catch((e: unknown) => setWrong(told(e))),
  )
  if (!open)
    return (
      <p className="mt-2 flex items-baseline gap-3" data-testid="remark">
        {text && <span className="min-w-0 break-words whitespace-pre-line">{text}</span>}
        <TextButton
          onClick={() => {
            setTyped(text)
            setOpen(true)
          }}
        >
          {text ? sentences.changeNote : sentences.noteAbout}
        </TextButton>
      </p>
    )
  return (
    <Keeps name={name} what={sentences.aNoteAbout}>
      <form
        className="mt-2 max-w-[660px]"
        onSubmit={(e) => {
          e.preventDefault()
          save()
        }}
      >
        <TextArea
          id={name}
          label={sentences.noteLabel}
          rows={3}
          maxLength={4000}
          autoFocus
          value={typed}
          wrong={wrong}
          onChange={(e) => setTyped(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Escape') done()
            if (e.key === 'Enter' && (e.ctrlKey || e.metaKey)) save()
          }}
        />
        <div className="mt-2 flex gap-2">
          <Button type="submit">{sentences.save}</Button>
          <Button quiet type="button" onClick={done}>
            {sentences.cancel}
          </Button>
        </div>
      </form>
    </Keeps>
  )
}
