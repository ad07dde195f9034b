import type { ReactNode } from 'react'
import { Link } from 'react-router'
import type { Touched, Written } from '../../api/desk'
import { digits } from '../../api/digits'
import { short } from '../../api/times'
import { TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { sentences } from './sentences'

const did: Record<string, string> = {
  bin: sentences.youBinned,
  junk: sentences.youCalledItJunk,
  archive: sentences.youArchived,
  rest: sentences.youArchived,
  snooze: sentences.youSnoozed,
  'follow-up': sentences.youMadeAFollowUp,
  send: sentences.youAnswered,
  star: sentences.youStarred,
  label: sentences.youLabelled,
  combo: sentences.youDidSomething,
}

const most = 120 // strokes that are drawn

/** What a rule would have done with the messages of the past: how many, how the user had decided, and which. */
export function Proof({ read, span, leaveOut }: { read?: Written; span: ReactNode; leaveOut: (from: string) => void }) {
  const proof = read?.proof
  const n = proof?.count ?? 0
  const strokes = proof?.strokes.slice(-most) ?? ''
  return (
    <section
      aria-label={sentences.asYouDecided}
      data-testid="proof"
      className={cx(
        'min-h-0 overflow-y-auto border-l border-sand-200 bg-sand-0 px-6 pt-6 pb-10',
        'max-[1060px]:overflow-visible max-[1060px]:border-t max-[700px]:px-4',
      )}
    >
      {!proof || !read.rule.when.length ? (
        <p className="text-ink-500">{sentences.writeOne}</p>
      ) : (
        <>
          <div className="grid grid-cols-3 gap-3">
            <Count n={n} what={sentences.ofYourLast(digits(proof.of))} />
            <Count n={proof.as} what={sentences.asYouDecided} tone="text-kelp-600" />
            <Count n={proof.otherwise} what={sentences.otherwise} tone="text-coral-600" />
          </div>
          <div className="mt-2">{span}</div>
          {n > 0 && (
            <>
              <div
                role="img"
                aria-label={sentences.strokes(proof.as, proof.otherwise, n - proof.as - proof.otherwise)}
                className="mt-4 flex h-7 items-end gap-[3px]"
              >
                {[...strokes].map((s, i) => (
                  <span
                    key={i}
                    className={cx(
                      'min-w-px flex-1 rounded-[2px]',
                      s === 'o' ? 'h-7 bg-coral-600' : s === 'a' ? 'h-5 bg-kelp-600 opacity-60' : 'h-5 bg-sand-300',
                    )}
                  />
                ))}
              </div>
              <p className="mt-1 mb-2 text-[12.5px] text-ink-500">{sentences.eachStroke}</p>
            </>
          )}
          {n === 0 && <p className="mt-3 text-ink-500">{sentences.nothingTouched}</p>}
          <ul className="border-t border-sand-200">
            {proof.touched.map((t) => (
              <One key={t.message} t={t} leaveOut={() => leaveOut(`with “${t.subject}”`)} />
            ))}
          </ul>
          {n > proof.touched.length && (
            <p className="mt-2 text-ink-500">{sentences.moreOfThem(digits(n - proof.touched.length))}</p>
          )}
        </>
      )}
    </section>
  )
}

const Count = ({ n, what, tone = 'text-ink-900' }: { n: number; what: string; tone?: string }) => (
  <div>
    <b className={cx('block text-[28px] leading-none tracking-[-.02em]', tone)}>{digits(n)}</b>
    <span className="text-[12.5px] text-ink-500">{what}</span>
  </div>
)

const One = ({ t, leaveOut }: { t: Touched; leaveOut: () => void }) => (
  <li
    className={cx(
      'flex items-center gap-3 border-b border-sand-200 py-2',
      t.otherwise && 'border-l-[3px] border-l-coral-600 pl-2',
    )}
    data-otherwise={t.otherwise || undefined}
  >
    <span className="min-w-0 flex-1">
      <b className="block truncate">{t.subject}</b>
      <span className="block truncate text-[12.5px] text-ink-500">
        {t.from.name || t.from.address} · {short(t.at)}
      </span>
    </span>
    <span className="text-[12.5px] text-ink-500">
      {t.did ? (did[t.did] ?? t.did) : t.before ? sentences.putAwayBefore : sentences.notDecided}
    </span>
    {t.otherwise ? (
      <TextButton small onClick={leaveOut}>
        {sentences.leaveSuchOut}
      </TextButton>
    ) : (
      <Link to={'/c/' + t.conversation} className="text-[12.5px] font-[550] text-accent hover:underline">
        {sentences.open}
      </Link>
    )}
  </li>
)
