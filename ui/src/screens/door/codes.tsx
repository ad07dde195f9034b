import { useState } from 'react'
import { Button } from '../../kit/button'
import { saveAs } from '../../kit/files'
import { sentences } from './sentences'

/** Recovery codes, told once: to be copied or saved. */
export function Codes({ codes }: { codes: string[] }) {
  const [copied, setCopied] = useState(false)
  const text = codes.join('\n') + '\n'
  return (
    <section aria-label={sentences.recoveryCodes}>
      <h2 className="text-[17px]">{sentences.recoveryCodes}</h2>
      <p className="mt-1 mb-3 text-ink-500">{sentences.eachLetsYouIn}</p>
      <ul
        className="grid grid-cols-2 gap-x-4 gap-y-1 rounded-[9px] bg-sand-100 px-4 py-3 font-mono text-[13px]"
        data-testid="codes"
      >
        {codes.map((c) => (
          <li key={c} className="whitespace-nowrap">
            {c}
          </li>
        ))}
      </ul>
      <div className="mt-2 flex gap-2">
        {navigator.clipboard && (
          <Button
            quiet
            size="small"
            onClick={() => void navigator.clipboard.writeText(text).then(() => setCopied(true))}
          >
            {copied ? sentences.copied : sentences.copyThem}
          </Button>
        )}
        <Button quiet size="small" onClick={() => saveAs('ebbe-recovery-codes.txt', text, 'text/plain')}>
          {sentences.saveThem}
        </Button>
      </div>
    </section>
  )
}
