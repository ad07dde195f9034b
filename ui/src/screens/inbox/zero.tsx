import { Link } from 'react-router'
import { useTide } from '../../api/queries'
import { long, plural } from '../../api/times'
import { Heading } from '../../kit/heading'
import { sentences } from './sentences.parts'
import { verbs } from './verbs'

/** Zero: the shore at low tide, what was decided today, and what comes next. */
export function Zero() {
  const { data: tide } = useTide()
  const by = tide ? verbs.filter(([k]) => tide.byKind[k]).map(([k, verb]) => `${tide.byKind[k]} ${verb}`) : []
  return (
    <section
      aria-label={sentences.nothingLeftToDecide}
      data-testid="zero"
      className="relative grid min-h-0 overflow-y-auto bg-sand-0"
    >
      <Shore />
      <div className="relative mx-auto mt-[11vh] w-full max-w-xl px-6 text-center">
        <Heading size="large">{sentences.lowTide}</Heading>
        <p className="mt-1 text-[16px] text-ink-700">{sentences.nothingLeftToDecideSaid}</p>
        {tide && (
          <dl className="mx-auto mt-8 grid w-fit grid-cols-[auto_auto] gap-x-5 gap-y-2 text-left text-[13.5px]">
            <dt className="text-right text-ink-500">{sentences.today}</dt>
            <dd>
              {tide.decided === 0
                ? sentences.nothingHadToBe
                : sentences.decidedNamed(
                    plural(tide.decided, sentences.conversation),
                    by.length ? ': ' + by.join(', ') : '',
                  )}
            </dd>
            <dt className="text-right text-ink-500">{sentences.next}</dt>
            <dd>
              {tide.nextBack ? (
                <>
                  {sentences.somethingComesBack(long(tide.nextBack))}{' '}
                  <Link to="/later" className="text-accent underline">
                    {sentences.inLater(plural(tide.later, sentences.conversation))}
                  </Link>
                </>
              ) : (
                sentences.nothingIsSnoozedNew
              )}
            </dd>
            {tide.nextMail > 0 && (
              <>
                <dt className="text-right text-ink-500">{sentences.mail}</dt>
                <dd>
                  {sentences.theNextMailComes(long(tide.nextMail))}{' '}
                  <Link to="/delivery" className="text-accent underline">
                    {sentences.delivery}
                  </Link>
                </dd>
              </>
            )}
            {tide.dueToday > 0 && (
              <>
                <dt className="text-right text-ink-500">{sentences.due}</dt>
                <dd>
                  <Link to="/follow-ups" className="text-accent underline">
                    {plural(tide.dueToday, sentences.followUp)}
                  </Link>{' '}
                  {sentences.byTonight}
                </dd>
              </>
            )}
          </dl>
        )}
      </div>
    </section>
  )
}

/** Wet sand with ripples, and the water far out. */
const Shore = () => (
  <svg
    viewBox="0 0 1200 300"
    preserveAspectRatio="xMidYMax slice"
    className="pointer-events-none absolute inset-x-0 bottom-0 h-[46%] w-full"
    aria-hidden
  >
    <path d="M0 70c200-30 420-26 600-8s420 18 600-14v252H0z" fill="var(--sand-100)" />
    <path d="M0 66c200-30 420-26 600-8s420 18 600-14v20c-180 32-420 32-600 14S200 56 0 86z" fill="var(--tide-200)" />
    <path d="M0 62c200-30 420-26 600-8s420 18 600-14" fill="none" stroke="var(--tide-400)" strokeWidth="2" />
    {[
      [120, 150],
      [470, 134],
      [820, 160],
      [260, 205],
      [640, 196],
      [980, 214],
      [90, 258],
      [420, 262],
      [780, 250],
    ].map(([x, y]) => (
      <path
        key={x}
        d={`M${x} ${y}c30-8 60-8 90 0s60 8 90 0`}
        fill="none"
        stroke="var(--sand-300)"
        strokeWidth="2"
        strokeLinecap="round"
      />
    ))}
    <g
      transform="translate(905 176)"
      fill="none"
      stroke="var(--coral-600)"
      strokeWidth="2"
      strokeLinejoin="round"
      strokeLinecap="round"
      opacity=".8"
    >
      <path d="M0 26C-4 10 6 0 18 0s22 10 18 26z" fill="var(--coral-100)" />
      <path d="M18 0v26M9 4l4 22M27 4l-4 22" />
    </g>
  </svg>
)
