import { useState } from 'react'
import type { Slip } from '../../api/desk'
import { Button } from '../../kit/button'
import { Field, TextArea } from '../../kit/field'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

/** What the reader calls a conversation; answers still carry its own subject. */
export function RenameTray({
  slip,
  onName,
  onClose,
}: {
  slip: Slip
  onName: (text: string) => void
  onClose: () => void
}) {
  const [text, setText] = useState(slip.title || slip.subject)
  return (
    <Tray
      label={sentences.rename}
      testid="rename-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        onName(text.trim() === slip.subject ? '' : text.trim())
      }}
    >
      <Field
        id="rename"
        className="flex-1"
        label={sentences.whatDoYouCall}
        value={text}
        maxLength={300}
        autoFocus
        autoComplete="off"
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
      />
      {slip.title && (
        <Button quiet onClick={() => onName('')}>
          {sentences.useItsSubject}
        </Button>
      )}
      <Button type="submit">{sentences.rename}</Button>
    </Tray>
  )
}

/** The reader's note on a conversation. */
export function NoteTray({
  note,
  onNote,
  onClose,
}: {
  note: string
  onNote: (text: string) => void
  onClose: () => void
}) {
  const [text, setText] = useState(note)
  return (
    <Tray
      label={sentences.note}
      testid="note-tray"
      layout="line"
      onClose={onClose}
      onSubmit={() => {
        onNote(text)
      }}
    >
      <TextArea
        id="note"
        label={sentences.aNoteToYourself}
        className="flex-1"
        autoFocus
        rows={3}
        maxLength={4000}
        value={text}
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === 'Enter' && !e.shiftKey && !e.nativeEvent.isComposing) {
            e.preventDefault()
            e.currentTarget.form?.requestSubmit()
          }
        }}
      />
      {note && (
        <Button quiet onClick={() => onNote('')}>
          {sentences.remove}
        </Button>
      )}
      <Button type="submit">{sentences.save}</Button>
    </Tray>
  )
}
