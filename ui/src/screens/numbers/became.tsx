import { sankey, sankeyJustify, sankeyLinkHorizontal } from 'd3-sankey'
import { Link } from 'react-router'
import type { Figures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { linesOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'
import { fates, flows, origins } from './sorts'
import type { Stretch } from './stretch'

const WIDTH = 350
const HEIGHT = 262
const SIDE = 88 // for the names on either side

interface Node {
  id: string
  name: string
  ink: string
}

/** From where things came, and what became of them. */
export function Became({ is, stretch }: { is: Figures; stretch: Stretch }) {
  const all = flows(is.became)
  const sum = (id: string) => all.reduce((n, f) => n + (f.from === id || f.to === id ? f.n : 0), 0)
  const nodes: Node[] = [...origins, ...fates].filter((n) => sum(n.id) > 0)
  const name = (id: string) => nodes.find((n) => n.id === id)?.name ?? id
  const best = [...all].sort((a, b) => b.n - a.n)[0]
  const shown = (f: { from: string; to: string }) => sentences.fromWhere(name(f.from), name(f.to))
  return (
    <Panel
      name={sentences.whatBecameOfIt}
      testid="became"
      className="row-span-2"
      file="what-became-of-it"
      says={best ? sentences.mostOfIt(digits(is.decided), shown(best), digits(best.n)) : sentences.nothingDecided}
      behind={{
        head: [sentences.cameFrom, sentences.became, sentences.conversations],
        rows: all.map((f) => [name(f.from), name(f.to), f.n]),
      }}
    >
      {all.length > 0 && <Flow nodes={nodes} all={all} stretch={stretch} shown={shown} sum={sum} />}
    </Panel>
  )
}

interface FlowProps {
  nodes: Node[]
  all: ReturnType<typeof flows>
  stretch: Stretch
  shown: (f: { from: string; to: string }) => string
  sum: (id: string) => number
}

function Flow({ nodes, all, stretch, shown, sum }: FlowProps) {
  const graph = sankey<Node, { details: string[]; from: string; to: string }>()
    .nodeId((n) => n.id)
    .nodeAlign(sankeyJustify)
    .nodeWidth(5)
    .nodePadding(Math.min(9, HEIGHT / 2 / nodes.length))
    .nodeSort(null)
    .extent([
      [SIDE, 2],
      [WIDTH - SIDE, HEIGHT - 2],
    ])({
    nodes: nodes.map((n) => ({ ...n })),
    links: all.map((f) => ({ source: f.from, target: f.to, value: f.n, details: f.details, from: f.from, to: f.to })),
  })
  const path = sankeyLinkHorizontal()
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full max-w-[440px]"
      role="group"
      aria-label={sentences.whatBecameOfIt}
    >
      {graph.links.map((l) => {
        const ink = nodes.find((n) => n.id === l.from)?.ink
        const words = `${shown(l)}: ${l.value}`
        const to = linesOf({ measure: 'became', details: l.details, ...stretch, name: shown(l) })
        return (
          <Link
            key={l.from + l.to}
            to={to}
            aria-label={words}
            className="[stroke-opacity:.26] hover:[stroke-opacity:.5] focus-visible:[stroke-opacity:.6]"
          >
            <path d={path(l) ?? ''} fill="none" stroke={ink} strokeWidth={Math.max(1, l.width ?? 1)}>
              <title>{words}</title>
            </path>
          </Link>
        )
      })}
      {graph.nodes.map((n) => {
        const left = origins.some((o) => o.id === n.id)
        return (
          <g key={n.id}>
            <rect x={n.x0} y={n.y0} width={5} height={Math.max(1, (n.y1 ?? 0) - (n.y0 ?? 0))} rx={2} fill={n.ink} />
            <text
              x={left ? (n.x0 ?? 0) - 6 : (n.x1 ?? 0) + 6}
              y={((n.y0 ?? 0) + (n.y1 ?? 0)) / 2 + 4}
              textAnchor={left ? 'end' : 'start'}
              fontSize={11.5}
              fill="var(--ink-700)"
            >
              {n.name} {digits(sum(n.id))}
            </text>
          </g>
        )
      })}
    </svg>
  )
}
