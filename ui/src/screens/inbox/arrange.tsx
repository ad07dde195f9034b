import type { Query } from '../../api/gen/search'
import { type Arranged, useDeliveryState, useLabels, useSettings } from '../../api/queries'
import { RadioGroup, Toggle } from '../../kit/choose'
import { LabelMark } from '../../kit/label'
import { Tray } from '../../kit/tray'
import { groupings, holds, marks, orderings } from './arranged'
import { sentences } from './sentences.parts'

interface Props {
  arranged: Arranged
  onArrange: (a: Partial<Arranged>) => void
  onClose: () => void
}

/** How the inbox is grouped, sorted and filtered. */
export function ArrangeTray({ arranged, onArrange, onClose }: Props) {
  const { data: labels } = useLabels()
  const addresses = useSettings().data?.addresses ?? []
  const own = useDeliveryState()?.own ?? []
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
    <Tray label={sentences.arrange} testid="arrange-tray" layout="table" onClose={onClose}>
      <Row name={sentences.group}>
        <RadioGroup
          label={sentences.group}
          value={arranged.group}
          options={Object.entries(groupings).map(([id, name]) => ({ id, name, data: { 'data-grouping': id } }))}
          onChange={(group) => onArrange({ group })}
        />
      </Row>
      <Row name={sentences.sort}>
        <RadioGroup
          label={sentences.sort}
          value={arranged.order}
          options={Object.entries(orderings).map(([id, name]) => ({ id, name }))}
          onChange={(order) => onArrange({ order })}
        />
      </Row>
      <Row name={sentences.showOnly}>
        {marks.map((m) => (
          <Toggle key={m.name} on={holds(where, m.is)} onChange={() => turn(m.is)}>
            {m.name}
          </Toggle>
        ))}
        {own.map((o) => (
          <Toggle key={o.id} on={where.stream === o.id} onChange={() => turn({ stream: o.id })}>
            {sentences.inStream(o.name)}
          </Toggle>
        ))}
        {addresses.length > 1 &&
          addresses.map((a) => (
            <Toggle key={a} on={where.account === a} onChange={() => turn({ account: a })}>
              {sentences.toNamed(a)}
            </Toggle>
          ))}
      </Row>
      {!!labels?.length && (
        <Row name={sentences.labelledTitle}>
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
