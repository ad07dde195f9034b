import type { ComponentProps, ReactNode } from 'react'
import { Link } from 'react-router'
import { digits } from '../../api/digits'
import { Earlier } from '../../kit/earlier'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { List } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { countedOf } from './counted'
import { sentences } from './sentences'

interface Props {
  back: string // where one came from
  backTo: string
  name: string
  counted: string // how many there are, in words
  none: string | false // why there are none
  after?: ReactNode
  children: ReactNode // the lines
}

/** The list behind a number. */
export const LinesPage = ({ back, backTo, name, counted, none, after, children }: Props) => (
  <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
    <div className="mx-auto max-w-3xl">
      <Link to={backTo} className="text-[12.5px] text-accent hover:underline">
        {back}
      </Link>
      <Heading>{name}</Heading>
      <p className="mb-3 text-ink-500" data-testid="counted">
        {counted}
      </p>
      {none && <Empty title={sentences.nothingCounted}>{none}</Empty>}
      <List label={name} empty={!!none}>
        {children}
      </List>
      {after}
    </div>
  </div>
)

interface Paged extends Pick<Props, 'back' | 'backTo' | 'name' | 'children'> {
  list: ComponentProps<typeof Earlier>['list'] & { data: unknown; error: Error | null; refetch: () => unknown }
  from: string
  to: string
  sum: number // of the lines that have come so far
  none: string // what is said where there are none
}

/** The list behind a number of some days, which comes a page at a time. */
export function PagedLines({ list, from, to, sum, none, ...page }: Paged) {
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loading} />
  return (
    <LinesPage
      {...page}
      counted={countedOf(from, to, list.hasNextPage ? sentences.atLeast(digits(sum)) : digits(sum))}
      none={sum === 0 && none}
      after={<Earlier list={list}>{sentences.earlier}</Earlier>}
    />
  )
}
