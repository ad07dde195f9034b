import { useEffect, useState } from 'react'
import { post } from '../../api/client'
import type { SittingView } from '../../api/desk'
import { client } from '../../api/queries'
import { putSlips } from '../../api/slips'
import { now } from '../../api/times'
import { useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Notice } from '../../kit/notice'
import { sentences } from './sentences'

/** What can be done with the sitting as a whole. */
export function useSittingSteps() {
  const { say } = useDesk()
  const step = async (path: string, body: unknown = {}) => {
    try {
      const s = await post<SittingView>('/sitting' + path, body)
      putSlips(s.slips)
      await client.cancelQueries({ queryKey: ['sitting'] }) // what was asked for before may be older
      client.setQueryData(['sitting'], s)
      return s
    } catch (e) {
      say({ text: (e as Error).message, wrong: true })
      return null
    }
  }
  return {
    begin: (body: unknown) => step('', body),
    end: () => step('/end'),
    longer: () => step('/longer', { minutes: 5 }),
  }
}

const lasted = (ms: number) => {
  const s = Math.max(0, Math.floor(ms / 1000))
  return `${String(Math.floor(s / 60)).padStart(2, '0')}:${String(s % 60).padStart(2, '0')}`
}

/** Where the sitting stands: how many, how long. */
export function SittingHead({ sitting, onEnd }: { sitting: SittingView; onEnd: () => void }) {
  const { longer } = useSittingSteps()
  const [, turn] = useState(0)
  useEffect(() => {
    const t = setInterval(() => turn((n) => n + 1), 1000)
    return () => clearInterval(t)
  }, [])
  const done = sitting.total - sitting.queue.length
  const spent = now() - sitting.begun
  const over = sitting.minutes > 0 && spent >= sitting.minutes * 60_000
  const leave = useKey('leave')
  return (
    <div className="border-b border-sand-200 px-3.5 pt-2.5 pb-2" data-testid="sitting">
      <div className="flex items-baseline justify-between gap-2">
        <Heading size="small">{sentences.sitting}</Heading>
        <span className="text-[12px] text-ink-500 tabular-nums">
          <b className="text-ink-900">{done}</b>{' '}
          {sentences.of(sitting.total, lasted(spent), sitting.minutes ? sentences.ofMin(sitting.minutes) : '')}
        </span>
        <TextButton small onClick={onEnd}>
          {sentences.end}
        </TextButton>
      </div>
      <div
        className="mt-1.5 h-[5px] overflow-hidden rounded-full bg-sand-200"
        role="progressbar"
        aria-label={sentences.goneThroughInThisSitting}
        aria-valuenow={done}
        aria-valuemin={0}
        aria-valuemax={sitting.total}
      >
        <div
          className="h-full bg-fill transition-[width] duration-150"
          style={{ width: `${(100 * done) / Math.max(1, sitting.total)}%` }}
        />
      </div>
      {over ? (
        <Notice tone="plain" testid="time-over" className="mt-2">
          {sentences.theMinutesAreOver(sitting.minutes)} <TextButton onClick={onEnd}>{sentences.endHere}</TextButton>{' '}
          {sentences.or} <TextButton onClick={() => void longer()}>{sentences.fiveMore}</TextButton>
        </Notice>
      ) : (
        <p className="mt-1 text-[11.5px] text-ink-500">{sentences.leavesThisOneUndecided(leave)}</p>
      )}
    </div>
  )
}
