import { RadioGroup, Toggle } from '../../kit/choose'
import type { LabelView } from '../../api/desk'
import { Tray } from '../../kit/tray'
import type { Query } from '../../api/gen/search'
import { type Arranged, useLabels, useSettings } from '../../api/queries'
import { LabelMark } from '../../kit/label'

export const groupings: Record<string, string> = {
  why: 'by reason',
  sender: 'by sender',
  subject: 'by subject',
  kind: 'by kind',
  day: 'by day',
  account: 'by your address',
}
export const orderings: Record<string, string> = {
  newest: 'newest first',
  oldest: 'oldest first',
  sender: 'by name',
  importance: 'important first',
  size: 'largest first',
}

const marks: { name: string; is: Query }[] = [
  { name: 'unread', is: { unread: true } },
  { name: 'starred', is: { starred: true } },
  { name: 'with a follow-up', is: { flagged: true } },
  { name: 'with files', is: { files: true } },
  { name: 'to me alone', is: { reach: 'alone' } },
  { name: 'copied to me', is: { reach: 'copied' } },
  { name: 'from people', is: { kind: 'person' } },
  { name: 'lists', is: { kind: 'list' } },
  { name: 'notices', is: { kind: 'notice' } },
  { name: 'receipts', is: { kind: 'receipt' } },
  { name: 'invitations', is: { kind: 'invitation' } },
]
const holds = (where: Query, is: Query) => Object.entries(is).every(([k, v]) => where[k as keyof Query] === v)

/** What a query filters to, in words. */
export function filtered(where: Query, labels: LabelView[]) {
  const words = marks.filter((m) => holds(where, m.is)).map((m) => m.name)
  if (where.from) words.push('from ' + where.from)
  if (where.account) words.push('to ' + where.account)
  if (where.label) words.push('labelled ' + (labels.find((l) => l.id === where.label)?.path ?? ''))
  if (where.words) words.push(`with “${where.words}”`)
  return words.join(', ')
}

interface Props {
  arranged: Arranged
  onArrange: (a: Partial<Arranged>) => void
  onClose: () => void
}

/** How the inbox is grouped, sorted and filtered. */
export function ArrangeTray({ arranged, onArrange, onClose }: Props) {
  const { data: labels } = useLabels()
  const addresses = useSettings().data?.addresses ?? []
  const where = arranged.where
  const turn = (is: Query) => {
    const next = { ...where }
    const on = holds(where, is)
    for (const [k, v] of Object.entries(is)) {
      if (on) delete next[k as keyof Query]
      else Object.assign(next, { [k]: v as unknown })
    }
    onArrange({ where: next })
  }
  return (
    <Tray label="Arrange" testid="arrange-tray" layout="table" onClose={onClose}>
      <Row name="Group">
        <RadioGroup
          label="Group"
          value={arranged.group}
          options={Object.entries(groupings).map(([id, name]) => ({ id, name, data: { 'data-grouping': id } }))}
          onChange={(group) => onArrange({ group })}
        />
      </Row>
      <Row name="Sort">
        <RadioGroup
          label="Sort"
          value={arranged.order}
          options={Object.entries(orderings).map(([id, name]) => ({ id, name }))}
          onChange={(order) => onArrange({ order })}
        />
      </Row>
      <Row name="Show only">
        {marks.map((m) => (
          <Toggle key={m.name} on={holds(where, m.is)} onChange={() => turn(m.is)}>
            {m.name}
          </Toggle>
        ))}
        {addresses.length > 1 &&
          addresses.map((a) => (
            <Toggle key={a} on={where.account === a} onChange={() => turn({ account: a })}>
              to {a}
            </Toggle>
          ))}
      </Row>
      {!!labels?.length && (
        <Row name="Labelled">
          {labels.map((l) => (
            <Toggle key={l.id} on={where.label === l.id} onChange={() => turn({ label: l.id })}>
              <LabelMark color={l.color} mark={l.mark} />
              {l.path}
            </Toggle>
          ))}
        </Row>
      )}
    </Tray>
  )
}

const Row = ({ name, children }: { name: string; children: React.ReactNode }) => (
  <>
    <h2 className="pt-1 text-[11.5px] text-ink-500">{name}</h2>
    <div className="flex flex-wrap gap-1.5">{children}</div>
  </>
)
