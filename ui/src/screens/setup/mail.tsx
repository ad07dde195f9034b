import { useState } from 'react'
import { Link } from 'react-router'
import type { Settings } from '../../api/desk'
import { useChoice, useChoosing } from '../../frame/choosing'
import { Button, IconButton } from '../../kit/button'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { useOnce } from '../../kit/once'
import { SavedField } from '../../kit/saved'
import { Part } from './part'
import { sentences } from './sentences'

/** The addresses that are one's own, and for how long sending can be taken back. */
export function Mail({ settings }: { settings: Settings }) {
  const { addresses, fixed, habits } = settings
  const choose = useChoosing()
  const choice = useChoice()
  const [more, setMore] = useState('')
  const [wrong, setWrong] = useState('')
  const finished = useFinished('more')
  const add = useOnce(async () => {
    const no = await choose({ addresses: [...addresses, more.trim()] })
    setWrong(no ?? '')
    if (no) return
    finished()
    setMore('')
  })
  return (
    <Part
      id="mail"
      name={sentences.mail}
      about={
        <>
          {sentences.serversPasswordsAnd}{' '}
          <Link to="/accounts" className="text-accent underline">
            {sentences.accounts}
          </Link>
          .
        </>
      }
    >
      <SavedField
        id="span"
        className="max-w-64"
        label={sentences.secondsInWhichWhat}
        type="number"
        min={1}
        max={600}
        value={String(habits.span || 15)}
        onSave={(text) => choose({ habits: { span: Number(text) } })}
      />
      <h3 className="mt-6 mb-1 text-[14px]">{sentences.yourAddresses}</h3>
      <p className="mb-2 text-ink-500">{sentences.mailFromTheseCounts}</p>
      <ul className="mb-3 max-w-lg">
        {addresses.map((a) => (
          <li key={a} className="flex min-h-9 items-center gap-2 border-b border-sand-200 py-1">
            <span className="min-w-0 flex-1 truncate">{a}</span>
            {!fixed.includes(a) && (
              <IconButton
                label={sentences.notMine(a)}
                onClick={() => void choice({ addresses: addresses.filter((o) => o !== a) })}
              >
                ×
              </IconButton>
            )}
          </li>
        ))}
      </ul>
      <form
        className="flex max-w-lg items-start gap-2"
        onSubmit={(e) => {
          e.preventDefault()
          if (more.trim()) add()
        }}
      >
        <Field
          id="more"
          label={sentences.oneMore}
          hideLabel
          placeholder={sentences.oneMore}
          type="email"
          className="min-w-0 flex-1"
          value={more}
          wrong={wrong}
          onChange={(e) => setMore(e.target.value)}
        />
        <Button type="submit" quiet disabled={!more.trim()}>
          {sentences.add}
        </Button>
      </form>
    </Part>
  )
}
