import { createContext } from 'react'
import type { FoundAt } from '../../api/desk'
import type { Term } from '../../api/gen/search'

/** What was looked for on this screen: where it stands in each conversation, and what is marked there. */
export interface Finding {
  at: (id: number) => FoundAt | undefined
  terms: Term[]
}

const nothing: Finding = { at: () => undefined, terms: [] }
export const FindingContext = createContext(nothing)
