import { useEffect, useRef, useState } from 'react'
import { put } from '../../api/client'
import type { DraftView, Slip } from '../../api/gen/desk'
import { client, useConversation } from '../../api/queries'
import { changeSlip } from '../../api/slips'
import { long, now } from '../../api/times'
import { Button } from '../../kit/kit'
import { useCommands, DOCK, useKey } from '../../frame/commands'
import { onEscape, trayClass } from './write'

const TWO_MINUTES = 120_000
const begun = new Map<number, number>() // when an answer was begun here, by conversation

const text = (ms: number) => {
  const s = Math.ceil(ms / 1000)
  return `${Math.floor(s / 60)}:${String(s % 60).padStart(2, '0')}`
}

/** The two-minute clock of a conversation: it runs from when its answer was begun. */
export function useTwoMinutes(id?: number) {
  const [, turn] = useState(0)
  const since = id === undefined ? undefined : begun.get(id)
  useEffect(() => {
    if (since === undefined) return
    const t = setInterval(() => turn((n) => n + 1), 500)
    return () => clearInterval(t)
  }, [since])
  const left = since === undefined ? TWO_MINUTES : since + TWO_MINUTES - now()
  return {
    running: since !== undefined,
    over: left <= 0,
    /** begins at the instant given, if that is not long ago, or now */
    start: (at = 0) => { if (id !== undefined && !begun.has(id)) { begun.set(id, at > now() - 5 * TWO_MINUTES ? at : now()); turn((n) => n + 1) } },
    stop: () => { if (id !== undefined) begun.delete(id) },
    clock: <span className="text-[12px] font-normal tabular-nums max-[1180px]:hidden" data-testid="two-minutes">{since === undefined ? '2 min' : left > 0 ? text(left) : 'over'}</span>,
    left,
  }
}

interface Props {
  slip: Slip
  two: ReturnType<typeof useTwoMinutes>
  onRest: () => void
  onClose: () => void
}

/** The beginning of an answer, kept as it is typed, beside the two-minute clock. */
export function ReplyTray({ slip, two, onRest, onClose }: Props) {
  const { data } = useConversation(slip.id)
  const [typed, setTyped] = useState<string>()
  const [kept, setKept] = useState<DraftView>()
  const [wrong, setWrong] = useState('')
  const latest = useRef('')
  const line = useRef<Promise<unknown>>(Promise.resolve())
  const rest = useKey('rest-follow-up')
  const value = typed ?? data?.draft.text ?? ''
  const { start } = two
  const since = data && (data.draft.text ? data.draft.begun : 0)
  useEffect(() => { if (since !== undefined) start(since) }, [since]) // eslint-disable-line react-hooks/exhaustive-deps -- once, when it opens
  const keep = (words: string) => {
    latest.current = words
    line.current = line.current.then(async () => {
      if (latest.current !== words) return // something newer is to be kept
      try {
        const draft = await put<DraftView>('/drafts/' + slip.id, { text: words })
        setKept(draft)
        setWrong('')
        changeSlip(slip.id, { draft: draft.text !== '' })
        void client.invalidateQueries({ queryKey: ['conversation', slip.id] })
      } catch (e) {
        setWrong((e as Error).message.replace('Nothing was changed', 'What you typed last is only in this field'))
      }
    })
    return line.current
  }
  const toFollowUp = () => void keep(value).then(() => { two.stop(); onRest() })
  useCommands([{ id: 'rest-follow-up', run: toFollowUp, typing: true }], DOCK)
  const at = kept?.changed ?? (data?.draft.text ? data.draft.changed : 0)
  return (
    <form aria-label="Reply" data-testid="reply-tray" className={trayClass + ' grid grid-cols-[minmax(0,1fr)_220px] gap-5 max-[700px]:grid-cols-1'} onKeyDown={onEscape(() => { void keep(value); onClose() })} onSubmit={(e) => e.preventDefault()}>
      <div>
        <label htmlFor="reply" className="mb-1 block text-[11.5px] font-[650] text-ink-500">Answer to {slip.from}</label>
        {data && (
          <textarea id="reply" autoFocus rows={7} value={value} onChange={(e) => { setTyped(e.target.value); void keep(e.target.value) }}
            className="block w-full resize-none rounded-[9px] border border-sand-300 bg-sand-0 px-3 py-2 font-serif text-[15px] leading-[1.55] focus:border-fill focus:outline-1 focus:outline-fill" />
        )}
        <p className={`mt-1 min-h-[18px] text-[12px] ${wrong ? 'text-coral-600' : 'text-ink-500'}`} role={wrong ? 'alert' : undefined} data-testid="kept">{wrong || (value && at ? `Kept ${long(at)}.` : 'What you type is kept here. Mail cannot be sent from Ebbe yet.')}</p>
      </div>
      <div className="flex flex-col items-start gap-2">
        <b className={`text-[30px] leading-none tabular-nums ${two.over ? 'text-amber-600' : 'text-ink-900'}`} role="timer">{two.over ? '0:00' : text(two.left)}</b>
        <p className="text-[12.5px] text-ink-500" role={two.over ? 'alert' : undefined} data-testid="two-over">
          {two.over ? `Two minutes are over. ${rest} makes the rest a follow-up; the draft stays with it.` : 'If it takes longer than two minutes, it is a follow-up.'}
        </p>
        <Button quiet={!two.over} onClick={toFollowUp}>Make the rest a follow-up <span className="ml-1 font-normal opacity-80">{rest}</span></Button>
        <Button quiet onClick={() => { void keep(value); onClose() }}>Keep the draft and close</Button>
      </div>
    </form>
  )
}
