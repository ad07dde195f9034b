import { useState } from 'react'
import { put, told } from '../../api/client'
import type { NumberKnown, NumberView } from '../../api/desk'
import { client, refresh } from '../../api/queries'
import { long } from '../../api/times'
import { Button, TextButton } from '../../kit/button'
import { Field, Wrong } from '../../kit/field'
import { sentences } from './sentences.trays'

/** Whose a telephone number is: said once, and all of it is theirs from then on. */
export function Whose({ number: n }: { number: NumberKnown }) {
  const [open, setOpen] = useState(false)
  const [name, setName] = useState(n.name)
  const [address, setAddress] = useState(n.address)
  const [wrong, setWrong] = useState('')
  const save = () =>
    void put<NumberView>('/numbers', { number: n.number, name, address }).then(
      () => {
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
              setOpen(false)
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
            onChange={(e) => setName(e.target.value)}
          />
          <Field
            id="whose-address"
            label={sentences.theirAddress}
            small
            autoComplete="off"
            maxLength={250}
            value={address}
            onChange={(e) => setAddress(e.target.value)}
          />
          <Wrong>{wrong}</Wrong>
          <p className="flex gap-2">
            <Button type="submit">{sentences.save}</Button>
            <Button quiet onClick={() => setOpen(false)}>
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
