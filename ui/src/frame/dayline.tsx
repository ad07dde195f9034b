import { useEffect, useRef, useState } from 'react'
import { useNavigate } from 'react-router'
import type { Dayline as Data } from '../api/desk'
import type { Piece } from '../api/gen/delivery'
import { useDayline, useMisses } from '../api/queries'
import { clock, now, plural, setNow } from '../api/times'
import { sentences } from './sentences'

const HEIGHT = 84
const TOP = 14
const GROUND = 62

/** The strip over the day: how many were left to decide so far, what comes back and what is due. */
export function Dayline() {
  const { data } = useDayline()
  const box = useRef<HTMLDivElement>(null)
  const [width, setWidth] = useState(0)
  useEffect(() => {
    const observer = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width))
    observer.observe(box.current!)
    return () => observer.disconnect()
  }, [])
  useEffect(() => {
    if (data) setNow(data.now)
  }, [data])
  return (
    <div ref={box} className="h-[84px] min-w-0 max-[700px]:hidden">
      {data && width > 120 && <Curve data={data} width={width} />}
    </div>
  )
}

function Curve({ data, width }: { data: Data; width: number }) {
  const navigate = useNavigate()
  const present = Math.min(Math.max(now(), data.now), data.to)
  const x = (at: number) => 14 + ((at - data.from) / (data.to - data.from)) * (width - 32)
  const ahead = data.forecast ?? []
  const most = Math.max(8, ...data.curve.map((p) => p.left), ...ahead.map((p) => p.left))
  const y = (n: number) => GROUND - (n / most) * (GROUND - TOP)
  const steps = data.curve
    .map((p, i) => `${i ? `H${x(p.at).toFixed(1)}` : `M${x(p.at).toFixed(1)},${GROUND}`}V${y(p.left).toFixed(1)}`)
    .join('')
  const hours: number[] = []
  const every = width < 520 ? 4 : 2
  for (let at = data.from; at <= data.to; at += every * 3_600_000) hours.push(at)
  const place = (count: number, verb: string, at: number) =>
    `${plural(count, sentences.conversation)} ${verb} ${clock(at)}`
  return (
    <svg
      width={width}
      height={HEIGHT}
      role="group"
      aria-label={sentences.theDayLeftTo(data.left)}
      className="block select-none"
    >
      {data.bands
        .filter((b) => b.state !== 'open' && b.state !== 'shut')
        .map((b) => (
          <Band
            key={b.from}
            x={x(Math.max(b.from, data.from))}
            end={x(Math.min(b.to, data.to))}
            band={b}
            go={() => navigate('/delivery')}
          />
        ))}
      <path d={`${steps}H${x(present).toFixed(1)}V${GROUND}Z`} fill="var(--sea)">
        <title>{sentences.leftToDecide(data.left)}</title>
      </path>
      {ahead.length > 1 && (
        <Ahead data={data} points={ahead.map((p) => [x(p.at), y(p.left)])} width={width} zero={x(data.zero)} />
      )}
      <line x1={14} x2={width - 18} y1={GROUND} y2={GROUND} stroke="rgb(255 255 255 / 0.4)" />
      {hours.map((at) => (
        <text key={at} x={x(at)} y={78} fill="rgb(255 255 255 / 0.69)" fontSize="10.5" textAnchor="middle">
          {clock(at).replace(':00', '').padStart(2, '0')}
        </text>
      ))}
      {data.due.map((m) => (
        <Spot
          key={'d' + m.at}
          x={x(m.at)}
          label={sentences.dueNamed(plural(m.count, sentences.followUp), clock(m.at))}
          go={() => navigate('/follow-ups')}
        >
          <rect x={x(m.at) - 4} y={58} width="8" height="8" fill="var(--day-due)" />
        </Spot>
      ))}
      {data.back.map((m) => (
        <Spot
          key={'b' + m.at}
          x={x(m.at)}
          label={place(m.count, m.count === 1 ? sentences.comesBack : sentences.comeBack, m.at)}
          go={() => navigate('/later')}
        >
          <path d={`M${x(m.at) - 5},67 l5,-9 l5,9z`} fill="var(--day-back)" />
        </Spot>
      ))}
      {data.rounds.map((at) => (
        <Spot key={'r' + at} x={x(at)} label={sentences.round(clock(at))} go={() => navigate('/delivery')}>
          <path d={`M${x(at)},55 c-5,7 -5,13 0,13 c5,0 5,-6 0,-13z`} fill="white" />
        </Spot>
      ))}
      <line x1={x(present)} x2={x(present)} y1={6} y2={68} stroke="var(--day-now)" strokeWidth="2" />
      <text
        x={x(present) + (x(present) > width - 60 ? -5 : 5)}
        y={15}
        fill="var(--day-now-text)"
        fontSize="10.5"
        fontWeight="600"
        textAnchor={x(present) > width - 60 ? 'end' : 'start'}
      >
        {clock(present)}
      </text>
    </svg>
  )
}

/** The forecast: a dashed line from now on, and in words when nothing is likely to be left. */
function Ahead({ data, points, width, zero }: { data: Data; points: [number, number][]; width: number; zero: number }) {
  const [open, setOpen] = useState(false)
  const { data: miss } = useMisses(open)
  const last = data.forecast[data.forecast.length - 1].left
  const words = data.zero
    ? sentences.emptyByAbout(clock(Math.round(data.zero / 1_800_000) * 1_800_000))
    : data.left
      ? sentences.aboutLeftAt(last, clock(data.to).replace(':00', ''))
      : ''
  const path = points.map(([px, py], i) => `${i ? 'L' : 'M'}${px.toFixed(1)},${py.toFixed(1)}`).join('')
  const [endX] = points[points.length - 1]
  const at = Math.min(Math.max(data.zero ? zero + 8 : endX - 8, points[0][0] + 60), width - 20)
  const told = !miss
    ? sentences.learnedFromThePast
    : miss.days === 0
      ? sentences.thereIsTooLittle
      : sentences.suchForecastsWereOff(Math.round(miss.median * 10) / 10, miss.days)
  return (
    <g>
      <path
        d={`${path}L${endX.toFixed(1)},${GROUND}L${points[0][0].toFixed(1)},${GROUND}Z`}
        fill="var(--sea)"
        opacity=".22"
      />
      <path d={path} fill="none" stroke="var(--sea-ahead)" strokeWidth="1.5" strokeDasharray="3 3" />
      {words && (
        <g
          role="button"
          tabIndex={0}
          aria-expanded={open}
          aria-label={sentences.forecastHowGoodIs(words)}
          className="cursor-pointer"
          data-testid="forecast"
          onClick={() => setOpen(!open)}
          onKeyDown={(e) => {
            if (e.key === 'Enter') {
              e.preventDefault()
              setOpen(!open)
            }
          }}
        >
          <title>{sentences.whatIsLeftLess(words)}</title>
          <text
            x={at}
            y={open ? 20 : 52}
            fill="rgb(255 255 255 / 0.82)"
            fontSize="11"
            textAnchor={at > width - 150 ? 'end' : 'start'}
          >
            {words}
          </text>
          {open && (
            <text
              x={width - 20}
              y={36}
              fill="rgb(255 255 255 / 0.82)"
              fontSize="11"
              textAnchor="end"
              data-testid="misses"
            >
              {told}
            </text>
          )}
        </g>
      )}
    </g>
  )
}

const bandNames: Record<string, string> = {
  quiet: sentences.quietHours,
  focus: sentences.keptFree,
  hand: sentences.heldByHand,
}

/** Something on the line that leads somewhere. */
const Way = ({ label, go, children }: { label: string; go: () => void; children: React.ReactNode }) => (
  <g
    role="link"
    tabIndex={0}
    aria-label={label}
    className="cursor-pointer"
    onClick={go}
    onKeyDown={(e) => {
      if (e.key !== 'Enter') return
      e.preventDefault()
      go()
    }}
  >
    <title>{label}</title>
    {children}
  </g>
)

/** Hours in which nothing comes in: quiet, kept for something, or held by hand. */
function Band({ x, end, band, go }: { x: number; end: number; band: Piece; go: () => void }) {
  const label = sentences.nothingComesIn(band.name || bandNames[band.state], clock(band.from), clock(band.to))
  return (
    <Way label={label} go={go}>
      <rect
        x={x}
        y={8}
        width={Math.max(0, end - x)}
        height={GROUND - 8}
        fill={band.state === 'focus' ? 'var(--day-focus)' : 'rgb(255 255 255 / 0.07)'}
      />
    </Way>
  )
}

function Spot({ x, label, go, children }: { x: number; label: string; go: () => void; children: React.ReactNode }) {
  return (
    <Way label={label} go={go}>
      <rect x={x - 12} y={46} width="24" height="24" fill="transparent" />
      {children}
    </Way>
  )
}
