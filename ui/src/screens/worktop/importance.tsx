import { memo, useEffect, useState } from 'react'
import type { Slip } from '../../api/desk'
import { afterPaint } from '../../api/paint'
import { useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { Gauge } from '../../kit/gauge'
import { sentences } from './sentences.trays'

/** How important it is, why, and the ways to say otherwise; of the next one once that is painted and the hand rests. */
export function Importance({ slip }: { slip: Slip }) {
  const [drawn, setDrawn] = useState(slip)
  useEffect(() => {
    if (drawn !== slip) afterPaint(() => setDrawn(slip))
  }, [drawn, slip])
  return (
    <div className={drawn.id === slip.id ? undefined : 'invisible'}>
      <Weighed slip={drawn} />
    </div>
  )
}

const Weighed = memo(function Weighed({ slip }: { slip: Slip }) {
  const { decide } = useDesk()
  const say = (kind: string) => void decide({ kind, conversations: [slip.id] })
  const up = useKey('important')
  const down = useKey('unimportant')
  if (slip.level < 0) return null
  return (
    <div data-testid="importance">
      <h3 className="mt-3 mb-1 text-[11.5px] text-ink-500">{sentences.howImportant}</h3>
      <p className="flex gap-2 text-ink-500">
        <Gauge level={slip.level} className="mt-0.5 shrink-0" />
        <span>
          <b className="text-ink-900">{sentences.levelOf(slip.level)}.</b>{' '}
          {slip.because ? sentences.becauseTitle(slip.because) : sentences.nothingSpeaks}
        </span>
      </p>
      <p className="mt-1 flex gap-3">
        {slip.said !== 'important' && (
          <TextButton data-tip={up} onClick={() => say('important')}>
            {sentences.itIsImportant}
          </TextButton>
        )}
        {slip.said !== 'unimportant' && (
          <TextButton data-tip={down} onClick={() => say('unimportant')}>
            {sentences.itIsNot}
          </TextButton>
        )}
      </p>
    </div>
  )
})

/** Where slips are a line each: how important the one at the cursor is, and why, and the way to say otherwise. */
export const WhyImportant = memo(function WhyImportant({ slip }: { slip: Slip }) {
  const { decide } = useDesk()
  if (slip.level < 0 || !slip.because) return null
  const other = slip.level >= 2 ? 'unimportant' : 'important'
  return (
    <p
      className="flex items-baseline gap-2 border-b border-sand-200 px-4 py-1 text-[12px] text-ink-500"
      data-testid="because"
    >
      <span className="min-w-0 truncate">{sentences.levelBecause(slip.level, slip.because)}</span>
      <TextButton small className="flex-none" onClick={() => void decide({ kind: other, conversations: [slip.id] })}>
        {sentences.notSo}
      </TextButton>
    </p>
  )
})
