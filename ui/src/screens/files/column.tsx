import { useContext } from 'react'
import { useNavigate } from 'react-router'
import type { ConversationView } from '../../api/desk'
import { useCommands } from '../../frame/commands'
import { type FileName, sameFile } from '../worktop/beside'
import { FindingContext } from '../worktop/found'
import { FilePane } from './pane'
import { useIntoAnswer } from './sending'

/** The files of a conversation: one of them beside it, if one is open, and the keys that open them. */
export function FileColumn({
  view,
  at,
  open,
  answer,
}: {
  view: ConversationView
  at?: FileName
  open: (file?: FileName) => void
  answer: () => void
}) {
  const { slip, messages } = view
  const finding = useContext(FindingContext)
  const navigate = useNavigate()
  const intoAnswer = useIntoAnswer()
  const files = messages.flatMap((m) => m.files.map((file, number) => ({ message: m.id, number, file })))
  const n = files.findIndex((f) => sameFile(f, at))
  const step = (by: number) => {
    const place = finding.at(slip.id)
    const found = files.findIndex((f) => sameFile(f, { message: place?.message ?? 0, number: place?.file ?? -1 }))
    const next = n < 0 ? (by < 0 ? files.length - 1 : Math.max(found, 0)) : (n + by + files.length) % files.length
    const { message, number } = files[next]
    open({ message, number })
  }
  useCommands([
    { id: 'next-file', run: () => step(1) },
    { id: 'previous-file', run: () => step(-1) },
    { id: 'all-files', run: () => navigate('/files/' + slip.id) },
  ])
  if (n < 0) return null
  const { message, number, file } = files[n]
  return (
    <FilePane
      of={{ message, number }}
      file={file}
      place={[n + 1, files.length]}
      terms={finding.terms}
      onStep={step}
      onClose={() => open(undefined)}
      onAnswer={() => void intoAnswer(view, { message, number }, answer)}
      className="file-column"
    />
  )
}
