import { createContext, useCallback, useContext, useEffect, useMemo, useRef, useState, type ReactNode } from 'react'
import { changeSlips, client, ebbAway, refresh } from '../api/queries'
import { EbbeError, newKey, post } from '../api/client'
import type { Decided, Decision, Event, FollowUpStep } from '../api/gen/desk'

/** A sentence about what just happened. */
export interface Notice {
  text: string
  wrong?: boolean
  undo?: boolean
}

interface Desk {
  notice: Notice | null
  say: (notice: Notice | null) => void
  decide: (decision: Decision) => Promise<Decided | null>
  look: (id: number) => void
  step: (uid: string, step: FollowUpStep) => Promise<Decided | null>
  takeBack: () => Promise<Decided | null>
  again: () => Promise<Decided | null>
  live: boolean
}

const Context = createContext<Desk | null>(null)
export const useDesk = () => useContext(Context)!

const leaves = new Set(['bin', 'archive', 'snooze'])

/** Sends what the user decides, one after the other, and keeps what is shown in step with it. */
export function DeskProvider({ children }: { children: ReactNode }) {
  const [notice, say] = useState<Notice | null>(null)
  const [live, setLive] = useState(true)
  const chain = useRef<Promise<unknown>>(Promise.resolve())
  const own = useRef(new Set<string>())
  const pending = useRef(0)
  const leaving = useRef(new Set<number>()) // conversations whose decision is on its way
  const whole = useRef<[string, unknown][]>([]) // queue and dayline before the decisions that are still on their way

  const send = useCallback((path: string, body: unknown, settle: (d: Decided) => void): Promise<Decided | null> => {
    const key = newKey()
    own.current.add(key)
    pending.current++
    const task = chain.current.then(async () => {
      try {
        const decided = await post<Decided>(path, body, key)
        pending.current--
        settle(decided)
        return decided
      } catch (e) {
        pending.current--
        say({ text: e instanceof EbbeError ? e.message : 'Something went wrong. Nothing was changed.', wrong: true })
        for (const [key, data] of whole.current) client.setQueryData([key], data) // nothing that was refused stays out of sight
        refresh(['mail', 'followups', 'cards'])
        return null
      }
    })
    chain.current = task
    return task
  }, [])

  const decide = useCallback((d: Decision) => {
    const away = leaves.has(d.kind) || (d.kind === 'follow-up' && !d.followUp?.keep)
    if (d.conversations.every((id) => leaving.current.has(id))) return Promise.resolve(null) // it has been decided already
    if (away) for (const id of d.conversations) leaving.current.add(id)
    if (pending.current === 0) whole.current = ['inbox', 'dayline'].map((key) => [key, client.getQueryData([key])])
    if (away) ebbAway(d.conversations)
    if (d.kind === 'star' || d.kind === 'unstar') changeSlips(d.conversations, { starred: d.kind === 'star' })
    if (d.kind === 'unread') changeSlips(d.conversations, { unread: true })
    return send('/decisions', d, (decided) => {
      say({ text: decided.text, undo: decided.entry > 0 })
      const topics = d.kind === 'follow-up' ? ['mail', 'followups'] : ['mail']
      // What was taken out of the queue is already right there; reading it anew while
      // further decisions are on their way would bring slips back for a moment.
      refresh(topics, away || pending.current > 0 ? ['inbox'] : [])
    }).finally(() => { for (const id of d.conversations) leaving.current.delete(id) })
  }, [send])

  const look = useCallback((id: number) => {
    changeSlips([id], { unread: false })
    void send('/looks/' + id, {}, () => {
      if (pending.current === 0) refresh(['mail'], ['conversation', 'find', 'later', 'dayline', 'tide', 'grid', 'history'])
    })
  }, [send])

  const step = useCallback((uid: string, s: FollowUpStep) =>
    send(`/follow-ups/${uid}`, s, (decided) => {
      if (decided.text) say({ text: decided.text, undo: decided.entry > 0 })
      refresh(['followups', 'cards', ...(s.kind === 'finish' ? ['mail'] : [])])
    }), [send])

  const revert = useCallback((path: string) =>
    send(path, {}, (decided) => {
      say({ text: decided.text })
      refresh(['mail', 'followups', 'cards'])
    }), [send])

  useEffect(() => {
    const source = new EventSource('/api/v1/events')
    let lost = false
    source.addEventListener('hello', () => {
      setLive(true)
      if (lost) void client.invalidateQueries()
      lost = false
    })
    source.addEventListener('changed', (m) => {
      const e = JSON.parse((m as MessageEvent<string>).data) as Event
      if (e.key && own.current.delete(e.key)) return
      refresh(e.topics)
    })
    source.onerror = () => {
      lost = true
      setLive(false)
    }
    return () => source.close()
  }, [])

  useEffect(() => {
    if (!notice || notice.wrong) return
    const t = setTimeout(() => say(null), 6000)
    return () => clearTimeout(t)
  }, [notice])

  const value = useMemo<Desk>(() => ({
    notice, say, decide, look, step, live, takeBack: () => revert('/take-back'), again: () => revert('/again'),
  }), [notice, decide, look, step, live, revert])
  return <Context.Provider value={value}>{children}</Context.Provider>
}
