import { type RefObject, useEffect, useRef, useState } from 'react'
import type { Term } from '../../api/gen/search'
import { spansOf } from '../../api/words'
import { useCommands } from '../../frame/commands'
import { sentences } from './sentences.trays'

/** Where what was looked for stands in a document, as ranges of its text. */
function rangesIn(root: Element, terms: Term[]): Range[] {
  const doc = root.ownerDocument
  const walk = doc.createTreeWalker(root, NodeFilter.SHOW_TEXT)
  const out: Range[] = []
  for (let node = walk.nextNode(); node; node = walk.nextNode())
    for (const [from, to] of spansOf(node.nodeValue ?? '', terms)) {
      const r = doc.createRange()
      r.setStart(node, from)
      r.setEnd(node, to)
      out.push(r)
    }
  return out
}

const FOUND = 'found'
const NOW = 'found-now'

/** What a window marks without changing what it shows (CSS Custom Highlight API). */
function paint(of: Window & typeof globalThis, name: string, ranges: Range[]) {
  if (ranges.length) of.CSS.highlights.set(name, new of.Highlight(...ranges))
  else of.CSS.highlights.delete(name)
}

const windowOf = (r: Range) => r.startContainer.ownerDocument?.defaultView as (Window & typeof globalThis) | null

/** Marks what was looked for in what is being read, and goes from one place to the next. */
export function Marks({ column, terms, id }: { column: RefObject<HTMLElement | null>; terms: Term[]; id: number }) {
  const places = useRef<Range[]>([])
  const now = useRef(-1)
  const [count, setCount] = useState(0)
  useEffect(() => {
    const root = column.current
    if (!root) return
    let waiting = 0
    const windows = new Set<Window & typeof globalThis>([window])
    const look = () => {
      waiting = 0
      const all: Range[] = []
      for (const part of root.querySelectorAll(
        '[data-testid=subject], [data-testid=note], [data-testid=body], iframe',
      )) {
        if (part instanceof HTMLIFrameElement) {
          const body = part.contentDocument?.body
          if (body) all.push(...rangesIn(body, terms))
        } else all.push(...rangesIn(part, terms))
      }
      places.current = all
      for (const w of windows) {
        paint(w, FOUND, [])
        paint(w, NOW, [])
      }
      for (const r of all) {
        const w = windowOf(r)
        if (w) windows.add(w)
      }
      for (const w of windows)
        paint(
          w,
          FOUND,
          all.filter((r) => windowOf(r) === w),
        )
      setCount(all.length)
    }
    const soon = () => {
      waiting ||= requestAnimationFrame(look)
    }
    now.current = -1
    look()
    const watch = new MutationObserver(soon)
    watch.observe(root, { childList: true, subtree: true, characterData: true })
    root.addEventListener('load', soon, true) // of frames
    return () => {
      watch.disconnect()
      root.removeEventListener('load', soon, true)
      if (waiting) cancelAnimationFrame(waiting)
      for (const w of windows) {
        paint(w, FOUND, [])
        paint(w, NOW, [])
      }
    }
  }, [column, terms, id])
  const step = (by: number) => {
    const all = places.current
    if (!all.length) return
    now.current = (now.current + by + all.length) % all.length
    const place = all[now.current]
    for (const r of all) {
      const w = windowOf(r)
      if (w) paint(w, NOW, w === windowOf(place) ? [place] : [])
    }
    const frame = windowOf(place)?.frameElement
    const top = place.getBoundingClientRect().top + (frame ? frame.getBoundingClientRect().top : 0)
    const root = column.current!
    root.scrollBy({ top: top - root.getBoundingClientRect().top - root.clientHeight / 3 })
  }
  useCommands([
    { id: 'next-place', run: () => step(1) },
    { id: 'previous-place', run: () => step(-1) },
  ])
  return (
    <span className="sr-only" data-testid="marked" data-count={count}>
      {sentences.wordsMarked(count)}
    </span>
  )
}
