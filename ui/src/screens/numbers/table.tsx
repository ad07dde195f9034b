import { ArrowDownIcon, ArrowUpIcon } from '@phosphor-icons/react'
import { type ReactNode, useState } from 'react'
import { fromAddress, useInAddress } from '../../frame/address'
import { useListed } from '../../frame/listed'
import { TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { saveAs } from '../../kit/files'
import { compare } from './comparing'
import { asCSV } from './panel'
import { sentences } from './sentences'

/** A column: what it is worth in a row, by which it is sorted, and how that is shown. */
export interface Column<T> {
  id: string
  name: string
  worth: (row: T) => number | string // 0 stands last, whichever way it is sorted
  show?: (row: T) => ReactNode
  wide?: boolean // only where there is room
}

interface Props<T> {
  name: string
  file: string
  columns: Column<T>[] // the first names the row
  rows: T[]
  keyOf: (row: T) => string
  open: (row: T) => void
  sort: string // the column by which it is sorted at first
  testid?: string
}

const SHOWN = 100

/** A table that is sorted by any of its columns, and gone through by keys. */
export function Table<T>({ name, file, columns, rows, keyOf, open, sort, testid }: Props<T>) {
  const [by, setBy] = useState(() => fromAddress('by') || sort)
  const [up, setUp] = useState(() => fromAddress('up') === '1')
  const [most, setMost] = useState(SHOWN)
  useInAddress({ by: by === sort ? '' : by, up: up ? '1' : '' }, (was) => {
    setBy(was('by') || sort)
    setUp(was('up') === '1')
  })
  const column = columns.find((c) => c.id === by) ?? columns[0]
  const sorted = [...rows].sort((a, b) => compare(column.worth(a), column.worth(b), up))
  const shown = sorted.slice(0, most)
  const { current, choose } = useListed(shown, keyOf, (key) => 'row-' + key, open)
  const [head, ...others] = columns
  const sortBy = (id: string) => {
    setUp(id === by ? !up : false)
    setBy(id)
  }
  return (
    <>
      <div className="overflow-x-auto">
        <table className="w-full border-collapse text-[13px]" aria-label={name} data-testid={testid}>
          <thead>
            <tr className="border-b border-ink-900 align-bottom">
              {columns.map((c, i) => (
                <th
                  key={c.id}
                  scope="col"
                  aria-sort={c.id === by ? (up ? 'ascending' : 'descending') : 'none'}
                  className={cx(
                    'pb-1 font-[650]',
                    i ? 'pl-3 text-right' : 'text-left',
                    c.wide && 'max-[1000px]:hidden',
                  )}
                >
                  <TextButton small onClick={() => sortBy(c.id)}>
                    {c.name}
                    {c.id === by &&
                      (up ? (
                        <ArrowUpIcon size={11} className="ml-0.5 inline" aria-hidden />
                      ) : (
                        <ArrowDownIcon size={11} className="ml-0.5 inline" aria-hidden />
                      ))}
                  </TextButton>
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {shown.map((r) => (
              <tr
                key={keyOf(r)}
                id={'row-' + keyOf(r)}
                data-row={keyOf(r)}
                aria-selected={r === current}
                className={cx('cursor-default border-b border-sand-200', r === current && 'bg-tide-50')}
                onClick={() => choose(r)}
                onDoubleClick={() => open(r)}
              >
                <th scope="row" className="max-w-56 truncate py-1 pl-1.5 text-left font-semibold">
                  {head.show?.(r) ?? head.worth(r)}
                </th>
                {others.map((c) => (
                  <td
                    key={c.id}
                    className={cx('pl-3 text-right whitespace-nowrap tabular-nums', c.wide && 'max-[1000px]:hidden')}
                  >
                    {c.show?.(r) ?? (c.worth(r) || '')}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="mt-2 flex gap-5">
        {sorted.length > most && (
          <TextButton small onClick={() => setMost(most + SHOWN)}>
            {sentences.moreRows(sorted.length - most)}
          </TextButton>
        )}
        {rows.length > 0 && (
          <TextButton
            small
            onClick={() =>
              saveAs(
                file + '.csv',
                asCSV({ head: columns.map((c) => c.name), rows: sorted.map((r) => columns.map((c) => c.worth(r))) }),
                'text/csv',
              )
            }
          >
            {sentences.asAFile}
          </TextButton>
        )}
      </p>
    </>
  )
}
