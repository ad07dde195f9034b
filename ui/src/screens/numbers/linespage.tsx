import type { ReactNode } from 'react'
import { Link } from 'react-router'
import { Heading } from '../../kit/heading'
import { Empty } from '../../kit/kit'
import { List } from '../../kit/list'
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
