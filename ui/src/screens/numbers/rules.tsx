import { useState } from 'react'
import type { FiguresView } from '../../api/desk'
import type { RuleFigures } from '../../api/gen/numbers'
import { digits } from '../../api/digits'
import { TextButton } from '../../kit/button'
import { TextLink } from './more'
import { linesOf } from './opened'
import { Panel } from './panel'
import { sentences } from './sentences'

const SHOWN = 6

const columns: { name: string; detail: string; n: (r: RuleFigures) => number }[] = [
  { name: sentences.ruleDid, detail: 'did', n: (r) => r.did },
  { name: sentences.ruleDecided, detail: 'decided', n: (r) => r.decided },
  { name: sentences.ruleThrough, detail: 'through', n: (r) => r.through },
  { name: sentences.ruleSent, detail: 'sent', n: (r) => r.sent },
  { name: sentences.ruleTold, detail: 'told', n: (r) => r.told },
  { name: sentences.ruleBack, detail: 'back', n: (r) => r.back },
]

const did = (r: RuleFigures) => r.did + r.through + r.sent + r.told + r.back

/** What each rule did, and how often that was taken back; each number opens to its lines. */
export function Ruled({ data }: { data: FiguresView }) {
  const [all, setAll] = useState(false)
  const rules = data.is.rules
  const name = (r: RuleFigures) => data.rules[r.rule] || sentences.ruleGone
  const stretch = { from: data.from, to: data.to }
  const used = columns.filter((c) => rules.some((r) => c.n(r) > 0))
  return (
    <Panel
      name={sentences.rules}
      testid="ruled"
      file="rules"
      className="col-span-2 max-[760px]:col-span-1"
      says={said(rules, name)}
      behind={{
        head: [sentences.rule, ...columns.map((c) => c.name)],
        rows: rules.map((r) => [name(r), ...columns.map((c) => c.n(r))]),
      }}
    >
      {rules.length > 0 && (
        <table className="w-full border-collapse text-[12.5px]" aria-label={sentences.rules}>
          <thead>
            <tr className="border-b border-sand-300 text-[11.5px] text-ink-500">
              <th scope="col" className="py-0.5 text-left font-[650]">
                {sentences.rule}
              </th>
              {used.map((c) => (
                <th key={c.detail} scope="col" className="pl-2 text-right font-normal">
                  {c.name}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rules.slice(0, all ? undefined : SHOWN).map((r) => (
              <tr key={r.rule} className="border-b border-sand-100">
                <th scope="row" title={name(r)} className="max-w-0 truncate py-[3px] text-left font-normal">
                  {name(r)}
                </th>
                {used.map((c) => (
                  <td key={c.detail} className="w-[11%] pl-2 text-right tabular-nums">
                    {c.n(r) > 0 ? (
                      <TextLink
                        to={linesOf({
                          measure: 'ruled',
                          details: [`${r.rule} ${c.detail}`],
                          ...stretch,
                          name: sentences.ofRule(name(r), c.name),
                        })}
                      >
                        {digits(c.n(r))}
                      </TextLink>
                    ) : (
                      0
                    )}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      )}
      {rules.length > SHOWN && (
        <TextButton small onClick={() => setAll(!all)}>
          {all ? sentences.fewerRules : sentences.allRules(rules.length)}
        </TextButton>
      )}
    </Panel>
  )
}

/** What rules did, in words. */
function said(rules: RuleFigures[], name: (r: RuleFigures) => string) {
  const sum = rules.reduce((n, r) => n + did(r), 0)
  const back = rules.reduce((n, r) => n + r.back, 0)
  if (!sum) return sentences.noRules
  if (!back) return sentences.rulesDidAll(digits(sum))
  const [worst] = [...rules].sort((a, b) => b.back - a.back)
  return [
    sentences.rulesDid(digits(sum), digits(back), Math.round((100 * back) / sum)),
    rules.length > 1 && sentences.mostTakenBack(name(worst), digits(worst.back), digits(did(worst))),
  ]
    .filter(Boolean)
    .join(' ')
}
