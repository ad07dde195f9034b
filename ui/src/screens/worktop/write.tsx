import { useRef, useState } from 'react'
import type { Slip } from '../../api/desk'
import { Button, Field } from '../../kit/kit'

/** Escape closes a tray, also while one types in it. */
export const onEscape = (close: () => void) => (e: React.KeyboardEvent) => {
  if (e.key !== 'Escape') return
  e.preventDefault()
  e.stopPropagation()
  close()
}
export const trayClass = 'ebb border-b border-sand-200 bg-sand-0 px-[18px] pt-3.5 pb-3 max-h-[60vh] overflow-y-auto'

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
    <form
      aria-label="Rename"
      className={trayClass + ' flex items-end gap-3 max-[700px]:flex-wrap'}
      onKeyDown={onEscape(onClose)}
      onSubmit={(e) => {
        e.preventDefault()
        onName(text.trim() === slip.subject ? '' : text.trim())
      }}
    >
      <Field
        id="rename"
        className="flex-1"
        label="What do you call it? Answers still carry the subject it has."
        value={text}
        maxLength={300}
        autoFocus
        autoComplete="off"
        onFocus={(e) => e.target.select()}
        onChange={(e) => setText(e.target.value)}
      />
      {slip.title && (
        <Button quiet onClick={() => onName('')}>
          Use its subject
        </Button>
      )}
      <Button type="submit">Rename</Button>
    </form>
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
  const form = useRef<HTMLFormElement>(null)
  return (
    <form
      ref={form}
      aria-label="Note"
      className={trayClass + ' flex items-end gap-3'}
      onKeyDown={onEscape(onClose)}
      onSubmit={(e) => {
        e.preventDefault()
        onNote(text)
      }}
    >
      <div className="flex-1">
        <label htmlFor="note" className="mb-1 block text-[11.5px] font-[650] text-ink-500">
          A note to yourself, shown whenever this is opened. Shift Enter begins a line.
        </label>
        <textarea
          id="note"
          autoFocus
          rows={3}
          maxLength={4000}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === 'Enter' && !e.shiftKey) {
              e.preventDefault()
              form.current?.requestSubmit()
            }
          }}
          className="block w-full resize-none rounded-[9px] border border-sand-300 bg-sand-0 px-3 py-2 text-[14px] focus:border-fill focus:outline-1 focus:outline-fill"
        />
      </div>
      {note && (
        <Button quiet onClick={() => onNote('')}>
          Take it away
        </Button>
      )}
      <Button type="submit">Keep</Button>
    </form>
  )
}
