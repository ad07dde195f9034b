import { useState } from 'react'
import type { AnswerLine } from '../../api/gen/writing'
import { DOCK, useCommands, useKey } from '../../frame/commands'
import { Button } from '../../kit/button'
import { cx } from '../../kit/cx'
import { sentences } from './sentences.writer'

interface Props {
  lines: AnswerLine[]
  text: string // what is written so far
  onText: (text: string) => void
}

/** Short answers, a line of them for each thing that is asked. What is chosen of each stands in the draft, in their order. */
export function Offers({ lines, text, onText }: Props) {
  const [chosen, setChosen] = useState<string[]>([])
  const [at, setAt] = useState(0)
  const key = useKey('short-answer')
  const nextKey = useKey('next-asked')
  const made = written(chosen)
  const shown = !text.trim() || (made !== '' && text === made)
  const say = (line: number, answer: string) => {
    const next = lines.map((_, i) => (i === line ? answer : text.trim() ? (chosen[i] ?? '') : ''))
    setChosen(next)
    setAt(line)
    onText(written(next))
  }
  const another = () => {
    const answers = lines[at]?.answers ?? []
    const now = text.trim() ? answers.indexOf(chosen[at] ?? '') : -1
    say(at, answers[now + 1] ?? '')
  }
  useCommands(
    shown
      ? [
          { id: 'short-answer', run: another, typing: true },
          ...(lines.length > 1
            ? [{ id: 'next-asked', run: () => setAt((at + 1) % lines.length), typing: true as const }]
            : []),
        ]
      : [],
    DOCK,
  )
  if (!shown) return null
  return (
    <div
      className="grid grid-cols-[minmax(0,1fr)] gap-1 text-[12.5px]"
      role="group"
      aria-label={sentences.shortAnswersToBe}
      data-testid="offers"
    >
      {lines.map((l, i) => (
        <div
          key={i}
          role="group"
          aria-label={l.asks || sentences.say}
          aria-current={lines.length > 1 && i === at}
          className="flex flex-wrap items-center gap-1.5"
        >
          {lines.length > 1 ? (
            <span className={cx('basis-full truncate', i === at ? 'font-semibold text-ink-900' : 'text-ink-500')}>
              {l.asks}
            </span>
          ) : (
            <span className="text-ink-500">{sentences.say}</span>
          )}
          {l.answers.map((o) => (
            <Button
              size="small"
              quiet
              aria-pressed={text.trim() !== '' && chosen[i] === o}
              className="max-w-full truncate"
              key={o}
              title={o}
              onClick={() => {
                say(i, o)
                document.querySelector<HTMLTextAreaElement>('#reply')?.focus()
              }}
            >
              <span className="truncate">{o}</span>
            </Button>
          ))}
        </div>
      ))}
      {key && (
        <span className="text-[11.5px] text-ink-500 max-[700px]:hidden">
          {lines.length > 1 ? `${key} · ${nextKey}` : key}
        </span>
      )}
    </div>
  )
}

const written = (chosen: string[]) => chosen.filter(Boolean).join('\n') + (chosen.some(Boolean) ? '\n' : '')
