import { CaretLeftIcon, CaretRightIcon } from '@phosphor-icons/react'
import { type ReactNode, useState } from 'react'
import { useSettings } from '../../api/queries'
import { dateOf, today } from '../../api/times'
import { fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { IconButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Heading } from '../../kit/heading'
import { sentences } from './sentences'
import { beside, type Span, spans, type Stretch, stretchOf } from './stretch'
import { Views } from './views'

const called = {
  day: {
    name: sentences.aDay,
    before: sentences.dayBefore,
    after: sentences.dayAfter,
    soFar: sentences.todaySoFar,
  },
  week: {
    name: sentences.aWeek,
    before: sentences.weekBefore,
    after: sentences.weekAfter,
    soFar: sentences.weekSoFar,
  },
  quarter: {
    name: sentences.aQuarter,
    before: sentences.quarterBefore,
    after: sentences.quarterAfter,
    soFar: sentences.quarterSoFar,
  },
  year: {
    name: sentences.aYear,
    before: sentences.yearBefore,
    after: sentences.yearAfter,
    soFar: sentences.yearSoFar,
  },
}
const starts = { monday: 1, saturday: 6, sunday: 0 } as const

/** The stretch of days that is looked at, as the address and the keys say. */
export function useStretch() {
  const [span, setSpan] = useState<Span>(() => (fromAddress('span') as Span) || 'week')
  const [at, setAt] = useState(() => fromAddress('at'))
  const week = useSettings().data?.week
  const first = starts[(week?.first || 'monday') as keyof typeof starts]
  const stretch = stretchOf(span, at || today(), first)
  const now = stretchOf(span, today(), first)
  const go = (by: -1 | 1) => {
    const to = beside(stretch, by)
    if (to <= today()) setAt(stretchOf(span, to, first).from === now.from ? '' : to)
  }
  useInAddress({ span: span === 'week' ? '' : span, at }, (was) => {
    setSpan((was('span') as Span) || 'week')
    setAt(was('at'))
  })
  useCommands([
    { id: 'stretch-before', name: called[span].before, keys: ['ArrowLeft', 'PageUp'], run: () => go(-1) },
    { id: 'stretch-after', name: called[span].after, keys: ['ArrowRight', 'PageDown'], run: () => go(1) },
  ])
  return { span, setSpan, stretch, running: stretch.from === now.from, first, go }
}

/** What stands above numbers: of which days they are, and what they say in words. */
export function StretchHead({ of, children }: { of: ReturnType<typeof useStretch>; children: ReactNode }) {
  const { span, setSpan, stretch, running, go } = of
  return (
    <>
      <Views />
      <div className="mb-3.5 flex flex-wrap items-center gap-x-4 gap-y-1.5">
        <Heading>{titleOf(span, stretch, running)}</Heading>
        <RadioGroup
          label={sentences.whichStretch}
          value={span}
          options={spans.map((id) => ({ id, name: called[id].name }))}
          onChange={setSpan}
        />
        <span className="flex">
          <IconButton label={called[span].before} onClick={() => go(-1)}>
            <CaretLeftIcon size={15} aria-hidden />
          </IconButton>
          <IconButton label={called[span].after} disabled={running} onClick={() => go(1)}>
            <CaretRightIcon size={15} aria-hidden />
          </IconButton>
        </span>
        <p className="min-w-64 flex-1 text-ink-700" data-testid="said">
          {children}
        </p>
      </div>
    </>
  )
}

function titleOf(span: Span, s: Stretch, running: boolean) {
  if (running) return called[span].soFar
  switch (span) {
    case 'day':
      return dateOf(s.from)
    case 'week':
      return sentences.weekFrom(dateOf(s.from))
    case 'quarter':
      return sentences.quarterOf(Math.floor(Number(s.from.slice(5, 7)) / 3) + 1, s.from.slice(0, 4))
    case 'year':
      return s.from.slice(0, 4)
  }
}
