import { type ReactNode, useId, useRef } from 'react'
import { Button, TextButton } from './button'

interface Props {
  label: string // what is chosen, for whoever does not see it
  accept?: string
  multiple?: boolean
  words?: boolean // stands among words
  testid?: string
  onFiles: (files: File[]) => void
  children: ReactNode
}

/** Files of this machine, chosen in its own window. */
export function FileButton({ label, accept, multiple, words, testid, onFiles, children }: Props) {
  const input = useRef<HTMLInputElement>(null)
  const id = useId()
  const choose = () => input.current?.click()
  return (
    <>
      {words ? (
        <TextButton small onClick={choose}>
          {children}
        </TextButton>
      ) : (
        <Button quiet onClick={choose}>
          {children}
        </Button>
      )}
      <input
        ref={input}
        id={id}
        type="file"
        accept={accept}
        multiple={multiple}
        className="sr-only"
        tabIndex={-1}
        aria-label={label}
        data-testid={testid}
        onChange={(e) => {
          onFiles([...(e.target.files ?? [])])
          e.target.value = ''
        }}
      />
    </>
  )
}

/** Lays a text into a file of that name where the browser keeps what is downloaded. */
export function saveAs(name: string, text: string, type: string) {
  const a = document.createElement('a')
  a.href = URL.createObjectURL(new Blob([text], { type }))
  a.download = name
  a.click()
  URL.revokeObjectURL(a.href)
}
