import { useQuery } from '@tanstack/react-query'
import { useEffect, useState } from 'react'
import { useNavigate } from 'react-router'
import { get } from '../../api/client'
import type { Example } from '../../api/gen/when'
import { useSettings } from '../../api/queries'
import { useMe } from '../../api/session'
import { useChoice } from '../../frame/choosing'
import { useCommands } from '../../frame/commands'
import { clash, keyName, keysOf, known, type Known, refused } from '../../frame/keymap'
import { keyOf } from '../../frame/keys'
import { Button, TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Key } from '../../kit/kit'
import { Notice } from '../../kit/notice'
import { sentences } from './sentences'

const places: Known['where'][] = [
  sentences.deciding,
  sentences.inAList,
  sentences.aFile,
  sentences.choosingMany,
  sentences.sitting,
  sentences.followUps,
  sentences.goingPlaces,
  sentences.everywhere,
]

/** The sheet of keys: to read, to print, and to change. */
export function Keys() {
  const own = useMe().habits.keys ?? {}
  const habits = useSettings().data?.habits
  const choose = useChoice()
  const navigate = useNavigate()
  const [asking, setAsking] = useState('') // the command that waits for its new key
  const [wrong, setWrong] = useState<{ id: string; text: string; key: string; other?: Known } | null>(null)
  useCommands([{ id: 'back', run: () => void navigate(-1), hidden: true }])
  const store = (keys: Record<string, string | null> | null) => {
    setAsking('')
    setWrong(null)
    void choose({ habits: { keys } })
  }
  useEffect(() => {
    if (!asking) return
    const press = (e: KeyboardEvent) => {
      if (['Shift', 'Control', 'Alt', 'Meta'].includes(e.key)) return
      e.preventDefault()
      e.stopImmediatePropagation()
      if (e.key === 'Escape') return setAsking('')
      const key = keyOf(e)
      const no = refused(key)
      if (no) return setWrong({ id: asking, key, text: no })
      const combo = habits?.combos?.find((c) => c.key === key)
      if (combo)
        return setWrong({
          id: asking,
          key,
          text: sentences.isTheKeyOf(keyName(key), combo.name),
        })
      const other = clash(asking, key, own)
      if (other?.fixed)
        return setWrong({
          id: asking,
          key,
          text: sentences.isTheKeyOfNamed(keyName(key), other.name),
        })
      if (other) return setWrong({ id: asking, key, other, text: sentences.isNowTheKeyOf(keyName(key), other.name) })
      store({ [asking]: key })
    }
    window.addEventListener('keydown', press, true)
    return () => window.removeEventListener('keydown', press, true)
  })
  const exchange = () => {
    if (!wrong?.other) return
    store({ [wrong.id]: wrong.key, [wrong.other.id]: keysOf(wrong.id, own)[0] ?? '' })
  }
  const usual = (id: string) => store({ [id]: null })
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-4xl">
        <div className="mb-1 flex items-center justify-between gap-4">
          <Heading>{sentences.theKeys}</Heading>
          <span className="no-print flex gap-2">
            {Object.keys(own).length > 0 && (
              <Button quiet onClick={() => store(null)}>
                {sentences.allAsUsual}
              </Button>
            )}
            <Button quiet onClick={() => window.print()}>
              {sentences.print}
            </Button>
          </span>
        </div>
        <p className="no-print mb-3 text-ink-500">{sentences.chooseChangeAndPress}</p>
        <div className="columns-2 gap-10 max-[900px]:columns-1">
          {places.map((where) => (
            <section key={where} aria-label={where} className="mb-5 break-inside-avoid">
              <h2 className="border-b border-sand-200 pb-1 text-[13px] text-accent">{where}</h2>
              <ul>
                {known
                  .filter((k) => k.where === where)
                  .map((k) => {
                    const keys = keysOf(k.id, own)
                    return (
                      <li key={k.id} data-command={k.id} className="border-b border-sand-100 py-1">
                        <div className="flex items-center gap-2">
                          <span className="min-w-0 flex-1">{k.name}</span>
                          {asking === k.id ? (
                            <span
                              role="status"
                              className="rounded-[5px] bg-amber-100 px-1.5 text-[12px] font-semibold text-amber-600"
                            >
                              {sentences.pressAKey}
                            </span>
                          ) : (
                            keys.map((key) => <Key key={key}>{keyName(key)}</Key>)
                          )}
                          {!k.fixed && (
                            <span className="no-print flex w-24 justify-end gap-2 text-[12px]">
                              {own[k.id] !== undefined && (
                                <TextButton tone="faint" onClick={() => usual(k.id)}>
                                  {sentences.asUsual}
                                </TextButton>
                              )}
                              <TextButton
                                aria-label={sentences.changeTheKeyOf(k.name)}
                                onClick={(e) => {
                                  e.currentTarget.blur()
                                  setWrong(null)
                                  setAsking(asking === k.id ? '' : k.id)
                                }}
                              >
                                {asking === k.id ? sentences.leaveIt : sentences.change}
                              </TextButton>
                            </span>
                          )}
                        </div>
                        {wrong?.id === k.id && (
                          <Notice tone="doubt" testid="clash" className="mt-1">
                            {wrong.text}{' '}
                            {wrong.other && (
                              <>
                                <TextButton tone="late" onClick={exchange}>
                                  {sentences.exchangeTheTwo}
                                </TextButton>{' '}
                                {sentences.orPressAnother}
                              </>
                            )}
                          </Notice>
                        )}
                      </li>
                    )
                  })}
              </ul>
            </section>
          ))}
        </div>
        <Times />
      </div>
    </div>
  )
}

/** What can be written where a time is asked for, and what it means now. */
function Times() {
  const examples = useQuery({
    queryKey: ['when-examples'],
    queryFn: () => get<Example[]>('/when/examples'),
    staleTime: 0,
  })
  if (!examples.data) return null
  return (
    <section aria-labelledby="times-in-words" className="mt-4" data-testid="times">
      <h2 id="times-in-words" className="border-b border-sand-200 pb-1 text-[13px] text-accent">
        {sentences.timesInWords}
      </h2>
      <p className="my-2 text-ink-500">{sentences.whereATimeIs}</p>
      <dl className="columns-3 gap-10 max-[900px]:columns-2 max-[560px]:columns-1">
        {examples.data.map((e) => (
          <div
            key={e.phrase}
            className="flex break-inside-avoid items-baseline justify-between gap-3 border-b border-sand-100 py-1"
          >
            <dt className="font-semibold">{e.phrase}</dt>
            <dd className="text-right text-ink-500">{e.means}</dd>
          </div>
        ))}
      </dl>
      <p className="mt-3 text-ink-500">{sentences.lineNeedsNo}</p>
    </section>
  )
}
