import { useState } from 'react'
import { put, told } from '../../api/client'
import type { NumberKnown, NumberView } from '../../api/desk'
import { client, refresh } from '../../api/queries'
import { long } from '../../api/times'
import { useTyped } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { Field, Wrong } from '../../kit/field'
import { sentences } from './sentences.trays'

/** Whose a telephone number is: said once, and all of it is theirs from then on. */
export function Whose({ number: n }: { number: NumberKnown }) {
  const [open, setOpen] = useState(false)
  const [{ name, address }, set, forget] = useTyped(
    'whose/' + n.number,
    { name: n.name, address: n.address },
    sentences.whoseIsIt,
  )
  const [wrong, setWrong] = useState('')
  const cancel = () => {
    set({ name: n.name, address: n.address })
    setOpen(false)
  }
  const save = () =>
    void put<NumberView>('/numbers', { number: n.number, name, address }).then(
      () => {
        forget()
        setOpen(false)
        setWrong('')
        refresh(['mail'])
        void client.invalidateQueries({ queryKey: ['numbers'] })
      },
      (e: unknown) => setWrong(told(e)),
    )
  return (
    <section className="mb-3 border-b border-sand-200 pb-3" data-testid="whose">
      {n.stopped > 0 && <p className="mb-1 text-coral-600">{sentences.wantsNoTexts(long(n.stopped))}</p>}
      {open ? (
        // eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions -- Escape of any field in it
        <form
          className="grid gap-2"
          onSubmit={(e) => {
            e.preventDefault()
            save()
          }}
          onKeyDown={(e) => {
            if (e.key === 'Escape') {
              e.stopPropagation()
              cancel()
            }
          }}
        >
          <Field
            id="whose-name"
            label={sentences.whoseName}
            small
            autoFocus
            autoComplete="off"
            maxLength={200}
            value={name}
            onChange={(e) => set({ name: e.target.value, address })}
          />
          <Field
            id="whose-address"
            label={sentences.theirAddress}
            small
            autoComplete="off"
            maxLength={250}
            value={address}
            onChange={(e) => set({ name, address: e.target.value })}
          />
          <Wrong>{wrong}</Wrong>
          <p className="flex gap-2">
            <Button type="submit">{sentences.save}</Button>
            <Button quiet onClick={cancel}>
              {sentences.stay}
            </Button>
          </p>
        </form>
      ) : (
        <TextButton onClick={() => setOpen(true)}>{n.name ? sentences.changeWhose : sentences.whoseIsIt}</TextButton>
      )}
    </section>
  )
}
