import { useState } from 'react'
import { get, newKey, post, put, told } from '../../api/client'
import type { SieveView } from '../../api/desk'
import type { Script } from '../../api/gen/sorting'
import { refresh } from '../../api/queries'
import { plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { FileButton, saveAs } from '../../kit/files'
import { sentences } from './sentences'

/** Rules out as a Sieve script, and in from one: what does not carry over is said, and what comes in is tried first. */
export function Sieve() {
  const { say } = useDesk()
  const [read, setRead] = useState<SieveView>()
  const [left, setLeft] = useState<string[]>([])
  const wrong = (e: unknown) => say({ text: told(e), wrong: true })
  const writeOut = async () => {
    try {
      const s = await get<Script>('/rules/sieve')
      setLeft(s.left)
      saveAs('rules.sieve', s.text, 'application/sieve')
    } catch (e) {
      wrong(e)
    }
  }
  const readIn = async (file: File) => {
    try {
      setRead(await post<SieveView>('/rules/sieve', { script: await file.text() }))
    } catch (e) {
      wrong(e)
    }
  }
  const save = async () => {
    const good = read?.rules.filter((r) => !r.doubt) ?? []
    let failed = 0
    for (const r of good)
      await put('/rules', { id: 0, name: '', words: r.words, mode: 'trying' }, newKey()).catch(() => failed++)
    say({ text: sentences.savedFromSieve(good.length - failed, failed), wrong: failed > 0 })
    setRead(undefined)
    refresh(['rules', 'labels'])
  }
  const good = read?.rules.filter((r) => !r.doubt).length ?? 0
  return (
    <section aria-label={sentences.asSieve} data-testid="sieve">
      <h2 className="mt-8 mb-1 text-[17px]">{sentences.asSieve}</h2>
      <p className="mb-2 max-w-xl text-ink-500">{sentences.aboutSieve}</p>
      <p className="flex flex-wrap gap-2">
        <Button quiet onClick={() => void writeOut()}>
          {sentences.writeOut}
        </Button>
        <FileButton
          label={sentences.aSieveScript}
          accept=".sieve,.siv,text/plain"
          testid="sieve-file"
          onFiles={([file]) => file && void readIn(file)}
        >
          {sentences.readIn}
        </FileButton>
      </p>
      {left.length > 0 && (
        <ul className="mt-2 max-w-xl text-ink-500">
          {left.map((l) => (
            <li key={l}>{l}</li>
          ))}
        </ul>
      )}
      {read && (
        <div className="mt-3 rounded-[10px] bg-tide-50 px-3.5 py-2" data-testid="sieve-read">
          <ul>
            {read.rules.map((r, i) => (
              <li key={i} className="py-0.5">
                {r.words} {r.doubt && <span className="text-amber-600">{r.doubt}</span>}
              </li>
            ))}
            {read.left.map((l) => (
              <li key={l} className="py-0.5 text-ink-500">
                {l}
              </li>
            ))}
          </ul>
          <p className="flex gap-2 pt-2">
            <Button size="middle" disabled={!good} onClick={() => void save()}>
              {sentences.saveAndTry(plural(good, sentences.ruleOne))}
            </Button>
            <Button quiet size="middle" onClick={() => setRead(undefined)}>
              {sentences.cancel}
            </Button>
          </p>
        </div>
      )}
    </section>
  )
}
