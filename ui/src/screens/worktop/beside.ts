import { api } from '../../api/base'
import { createContext } from 'react'

/** Which file of which message. */
export interface FileName {
  message: number
  number: number
}

/** What stands beside what is being read: a file of it, if one is open. */
export interface Beside {
  conversation: number
  at?: FileName
  open: (f: FileName) => void
}

export const BesideContext = createContext<Beside>({ conversation: 0, open: () => {} })

export const sameFile = (a?: FileName, b?: FileName) => a?.message === b?.message && a?.number === b?.number
/** As it stands in an address. */
export const fileText = (f?: FileName) => (f ? `${f.message}.${f.number}` : '')
export function fileIn(text: string): FileName | undefined {
  const found = /^(\d+)\.(\d+)$/.exec(text)
  return found ? { message: Number(found[1]), number: Number(found[2]) } : undefined
}
/** The address of several files as one. */
export const zipOf = (files: FileName[]) => api + '/files.zip?of=' + files.map(fileText).join(',')
export const pathOf = (f: FileName) => `/messages/${f.message}/files/${f.number}`
