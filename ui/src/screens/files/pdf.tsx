import { useQuery } from '@tanstack/react-query'
import { version } from 'pdfjs-dist/package.json'
import { type Ref, useEffect, useImperativeHandle, useRef, useState } from 'react'
import { api } from '../../api/base'
import type { Term } from '../../api/gen/search'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { passes, type Ask, type Tell } from '../../pdf/messages'
import { sentences } from './sentences'

/** Where one is in a PDF. */
export interface At {
  page: number
  pages: number
  place: number
  places: number
  speaking: number[]
}

const number = (n: unknown) => (typeof n === 'number' && Number.isInteger(n) && n >= 0 ? n : 0)
const folders = ['cmaps', 'standard_fonts', 'wasm']

/** What the frame says of where one is, believed as far as it is numbers. */
const believed = (t: At): At => ({
  page: number(t.page),
  pages: number(t.pages),
  place: number(t.place),
  places: number(t.places),
  speaking: Array.isArray(t.speaking) ? t.speaking.slice(0, 500).map(number) : [],
})

/** A PDF in the reader that ships with Ebbe: a frame without network, whose origin is nobody's, into which its bytes are handed. */
export function PDF({
  path,
  name,
  terms,
  ask,
  onAt,
}: {
  path: string // of its bytes
  name: string
  terms: Term[]
  ask: Ref<(a: Ask) => void>
  onAt: (at: At) => void
}) {
  const frame = useRef<HTMLIFrameElement>(null)
  const [ready, setReady] = useState(false)
  const [failed, setFailed] = useState('')
  const [password, setPassword] = useState('')
  const bytes = useQuery({
    queryKey: ['bytes', path],
    queryFn: async ({ signal }) => {
      const answer = await fetch(api + path, { signal })
      if (!answer.ok) throw new Error(sentences.notHere)
      return answer.arrayBuffer()
    },
    staleTime: Infinity,
    gcTime: 0,
    retry: 1,
  })
  const say = (a: Ask, hands: ArrayBuffer[] = []) => frame.current?.contentWindow?.postMessage(a, '*', hands)
  useImperativeHandle(ask, () => say)
  const told = useRef(onAt)
  useEffect(() => {
    told.current = onAt
  })
  useEffect(() => {
    const hear = (e: MessageEvent<Tell>) => {
      if (!frame.current || e.source !== frame.current.contentWindow) return
      const t = e.data
      if ('ready' in t) setReady(true)
      else if ('page' in t) {
        setFailed('')
        told.current(believed(t))
      } else if ('failed' in t) setFailed(['locked', 'wrong-password', 'page'].includes(t.failed) ? t.failed : 'broken')
      else if ('need' in t) {
        if (!folders.includes(t.folder) || !/^[\w.-]{1,80}$/.test(t.name)) return
        const given = number(t.need)
        fetch(`/assets/pdf-${version}/${t.folder}/${t.name}`)
          .then((r) => (r.ok ? r.arrayBuffer() : null))
          .catch(() => null)
          .then((b) => say({ given, bytes: b }, b ? [b] : []))
      } else if ('key' in t && passes(t.key))
        frame.current.dispatchEvent(
          new KeyboardEvent('keydown', {
            key: t.key.key,
            shiftKey: t.key.shift,
            ctrlKey: t.key.ctrl,
            bubbles: true,
            cancelable: true,
          }),
        )
    }
    window.addEventListener('message', hear)
    return () => window.removeEventListener('message', hear)
  }, [])
  const { data } = bytes
  useEffect(() => {
    if (!ready || !data) return
    const dark = document.documentElement.classList.contains('dark')
    say({ open: data.slice(0), terms, dark })
  }, [ready, data, terms])
  return (
    <div className="flex h-full flex-col">
      {bytes.error && (
        <p className="flex flex-wrap gap-3 p-4 text-[13px] text-amber-600">
          {sentences.notHere}
          <Button size="small" onClick={() => void bytes.refetch()}>
            {sentences.tryAgain}
          </Button>
        </p>
      )}
      {failed === 'page' && <p className="p-4 text-[13px] text-amber-600">{sentences.pageBroken}</p>}
      {failed === 'broken' && <p className="p-4 text-[13px] text-amber-600">{sentences.broken}</p>}
      {(failed === 'locked' || failed === 'wrong-password') && (
        <form
          className="grid gap-2 p-4 text-[13px]"
          onSubmit={(e) => {
            e.preventDefault()
            say({ password })
          }}
        >
          <p>{failed === 'locked' ? sentences.locked : sentences.wrongPassword}</p>
          <Field
            id="file-password"
            label={sentences.password}
            type="password"
            autoComplete="off"
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
          <span>
            <Button type="submit" size="small">
              {sentences.open}
            </Button>
          </span>
        </form>
      )}
      <iframe
        ref={frame}
        title={sentences.theFile(name)}
        sandbox="allow-scripts"
        src="/api/v1/pdf-reader"
        tabIndex={-1}
        data-testid="pdf"
        className={failed === 'broken' ? 'hidden' : 'min-h-0 w-full flex-1'}
      />
    </div>
  )
}
