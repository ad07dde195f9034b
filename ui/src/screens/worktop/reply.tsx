import { useEffect, useRef, useState } from 'react'
import { post, told, unanswered } from '../../api/client'
import type { ConversationView, DraftView, Slip } from '../../api/desk'
import type { Place } from '../../api/gen/inbox'
import { useConversation, useShortAnswers } from '../../api/queries'
import { pause } from '../../api/reach'
import { DOCK, useCommands, useKey } from '../../frame/commands'
import { Button } from '../../kit/button'
import { Notice } from '../../kit/notice'
import { Tray } from '../../kit/tray'
import { useDrafting } from '../write/drafts'
import { Writer } from '../write/writer'
import { sentences } from './sentences.trays'
import { countdown, type useTwoMinutes } from './twominutes'

interface Props {
  slip: Slip
  as: 'reply' | 'remind' | 'forward' | 'pass-on' // remind: it asks again for an answer
  two: ReturnType<typeof useTwoMinutes>
  place?: Place
  seen?: Place
  sitting?: number
  onRest: () => void
  onSent: (away: boolean) => void
  onClose: () => void
}

/** What is begun, and about which message: the draft there is, or an answer to the newest message that is not one's own. */
function beginning(as: Props['as'], view: ConversationView) {
  const d = view.draft
  const newest = view.messages.findLast((m) => !m.own) ?? view.messages.at(-1)
  const mode = { reply: 'reply', remind: 'reply', forward: 'forward', 'pass-on': 'hand-over' }[as]
  if (as === 'remind')
    return { mode, message: view.messages.findLast((m) => m.own)?.id ?? newest?.id ?? 0, remind: true }
  if (as === 'reply' && d.id && (d.mode === 'reply' || d.mode === 'reply-all'))
    return { mode: d.mode, message: d.message }
  return { mode, message: d.id && d.message ? d.message : (newest?.id ?? 0), to: [] }
}

/** Writing about the conversation shown, beside the two-minute clock. */
export function WriteTray({ slip, as, two, place, seen, sitting, onRest, onSent, onClose }: Props) {
  const { data } = useConversation(slip.id)
  const [draft, setDraft] = useState<DraftView>()
  const [wrong, setWrong] = useState('')
  const [away, setAway] = useState(false)
  const begun = useRef(false)
  const closed = useRef(false)
  const drafts = useDrafting()
  const rest = useKey('rest-follow-up')
  const offers = useShortAnswers(as === 'reply' ? slip.id : undefined)
  const open = async (what: ReturnType<typeof beginning>) => {
    for (let times = 0; !closed.current; times++) {
      try {
        setDraft(await post<DraftView>('/drafts', { to: [], ...what }))
        return
      } catch (e) {
        if (!unanswered(e)) return setWrong(told(e))
        const here = drafts.unsaved(slip.id) // what is written here is there without the program, too
        if (here) return setDraft(here.standing.draft)
        setAway(true)
        await pause(times)
      }
    }
  }
  useEffect(() => {
    closed.current = false
    return () => {
      closed.current = true
    }
  }, [])
  const { start } = two
  useEffect(() => {
    if (!data || begun.current) return
    begun.current = true
    if (as === 'reply') start(data.draft.text ? data.draft.begun : 0)
    void open(beginning(as, data))
  }, [data, as]) // eslint-disable-line react-hooks/exhaustive-deps -- once, when it opens
  const keeping = useRef<() => Promise<unknown>>(() => Promise.resolve())
  const toFollowUp = () =>
    void keeping.current().then(() => {
      two.stop()
      onRest()
    })
  useCommands(as === 'reply' ? [{ id: 'rest-follow-up', run: toFollowUp, typing: true }] : [], DOCK)
  if (wrong)
    return (
      <Tray label={sentences.reply} onClose={onClose}>
        <Notice>{wrong}</Notice>
      </Tray>
    )
  if (!draft)
    return (
      <Tray label={sentences.reply} layout="writer" busy onClose={onClose}>
        {away && <Notice>{sentences.opensByItself}</Notice>}
      </Tray>
    )
  return (
    <Writer
      draft={draft}
      offers={as === 'reply' ? offers.data : undefined}
      title={as === 'pass-on' ? sentences.handOver : as === 'forward' ? sentences.forward : sentences.reply}
      place={place}
      seen={seen}
      sitting={sitting}
      onSent={onSent}
      onClose={onClose}
      aside={
        as === 'reply' && (
          <div className="flex items-baseline gap-3">
            <b
              className={`text-[26px] leading-none tabular-nums ${two.over ? 'text-amber-600' : 'text-ink-900'}`}
              role="timer"
            >
              {two.over ? '0:00' : countdown(two.left)}
            </b>
            <p
              className="text-[12px] leading-[1.3] text-ink-500"
              role={two.over ? 'alert' : undefined}
              data-testid="two-over"
            >
              {two.over ? sentences.twoMinutesAreOver(rest) : sentences.ifItTakesLonger}
            </p>
          </div>
        )
      }
      foot={(keep) => {
        keeping.current = keep
        return (
          as === 'reply' && (
            <Button quiet className="self-start px-2.5 py-1.5" onClick={toFollowUp}>
              {sentences.makeTheRestA} <span className="ml-1 font-normal opacity-80">{rest}</span>
            </Button>
          )
        )
      }}
    />
  )
}
