import { Link } from 'react-router'
import type { Settings } from '../../api/desk'
import { useChoice, useChoosing } from '../../frame/choosing'
import { IconButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { SavedField } from '../../kit/saved'
import { Adding } from './adding'
import { Part } from './part'
import { sentences } from './sentences'

/** The addresses that are one's own, and for how long sending can be taken back. */
export function Mail({ settings }: { settings: Settings }) {
  const { addresses, fixed, habits } = settings
  const choose = useChoosing()
  const choice = useChoice()
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
      <div className="mt-4">
        <Checkbox checked={!!habits.binCodes} onChange={(on) => void choice({ habits: { binCodes: on } })}>
          {sentences.codesGo}
        </Checkbox>
      </div>
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
      <Adding
        id="more"
        label={sentences.oneMore}
        type="email"
        add={(address) => choose({ addresses: [...addresses, address] })}
      />
    </Part>
  )
}
