import { TableIcon } from '@phosphor-icons/react'
import { type ReactNode, useState } from 'react'
import { IconButton, TextButton } from '../../kit/button'
import { saveAs } from '../../kit/files'
import { sentences } from './sentences'

/** What stands behind a picture: its numbers, by rows. */
export interface Behind {
  head: string[]
  rows: (string | number)[][]
}

const cell = (x: string | number) => (/[",\n]/.test(String(x)) ? `"${String(x).replaceAll('"', '""')}"` : String(x))

/** A table as RFC 4180 has it. */
export const asCSV = ({ head, rows }: Behind) => [head, ...rows].map((r) => r.map(cell).join(',') + '\r\n').join('')

interface Props {
  name: string
  says: ReactNode // what one should see, in words
  behind?: Behind
  file?: string // what the table is called as a file
  testid?: string
  className?: string
  children?: ReactNode
}

/** A picture with what it says in words; the table behind it is a press away, and a file. */
export function Panel({ name, says, behind, file = '', testid, className = '', children }: Props) {
  const [table, setTable] = useState(false)
  return (
    <section aria-label={name} data-testid={testid} className={`min-w-0 border-t-2 border-ink-900 pt-2 ${className}`}>
      <div className="mb-1 flex items-start justify-between gap-2">
        <h2 className="text-[13.5px] font-[650]">{name}</h2>
        {behind && behind.rows.length > 0 && (
          <IconButton
            label={table ? sentences.asAPicture(name) : sentences.asATable(name)}
            tip={table ? sentences.picture : sentences.table}
            aria-pressed={table}
            onClick={() => setTable(!table)}
          >
            <TableIcon size={15} aria-hidden />
          </IconButton>
        )}
      </div>
      <p className="mb-2 text-[12.5px] text-ink-500">{says}</p>
      {table && behind ? (
        <>
          <Figures behind={behind} name={name} />
          <TextButton small onClick={() => saveAs(file + '.csv', asCSV(behind), 'text/csv')}>
            {sentences.asAFile}
          </TextButton>
        </>
      ) : (
        children
      )}
    </section>
  )
}

const Figures = ({ behind, name }: { behind: Behind; name: string }) => (
  <div className="max-h-72 overflow-auto">
    <table className="w-full border-collapse text-[12.5px]" aria-label={name}>
      <thead>
        <tr className="border-b border-ink-900 text-left text-[11.5px] text-ink-500">
          {behind.head.map((h, i) => (
            <th key={h} scope="col" className={`py-0.5 font-[650] ${i ? 'pl-3 text-right' : ''}`}>
              {h}
            </th>
          ))}
        </tr>
      </thead>
      <tbody>
        {behind.rows.map((r, k) => (
          <tr key={k} className="border-b border-sand-200">
            {r.map((x, i) =>
              i ? (
                <td key={i} className="pl-3 text-right tabular-nums">
                  {x}
                </td>
              ) : (
                <th key={i} scope="row" className="py-0.5 text-left font-normal">
                  {x}
                </th>
              ),
            )}
          </tr>
        ))}
      </tbody>
    </table>
  </div>
)
