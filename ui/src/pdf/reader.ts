import {
  getDocument,
  GlobalWorkerOptions,
  PasswordResponses,
  TextLayer,
  type PDFDocumentProxy,
  type RenderTask,
} from 'pdfjs-dist'
import Work from 'pdfjs-dist/build/pdf.worker.min.mjs?worker&inline'
import type { Term } from '../api/gen/search'
import { spansOf } from '../api/words'
import { passes, type Ask, type Tell } from './messages'
import './reader.css'

const tell = (t: Tell) => window.parent.postMessage(t, '*')

// There is no network: what a file needs besides is asked for, and handed in.
const wanted = new Map<number, (bytes: ArrayBuffer | null) => void>()
let asked = 0
const folders: Record<string, string> = { cMapUrl: 'cmaps', standardFontDataUrl: 'standard_fonts', wasmUrl: 'wasm' }
class HandedIn {
  fetch({ kind, filename }: { kind: string; filename: string }) {
    return new Promise<Uint8Array>((done, fail) => {
      const need = ++asked
      wanted.set(need, (bytes) => (bytes ? done(new Uint8Array(bytes)) : fail(new Error('not here: ' + filename))))
      tell({ need, folder: folders[kind] ?? '', name: filename })
    })
  }
}

GlobalWorkerOptions.workerPort = new Work()

const sheet = document.getElementById('sheet')!
const canvas = sheet.querySelector('canvas')!
const layer = sheet.querySelector<HTMLElement>('.textLayer')!
const zooms = [0.5, 0.75, 1, 1.25, 1.5, 2, 3, 4]
const MOST_POINTS = 16e6 // of a page as it is drawn
const MOST_LOOKED = 400 // pages that are looked through for what was looked for

let doc: PDFDocumentProxy | undefined
let terms: Term[] = []
let page = 0
let zoom = zooms.indexOf(1)
let places: Range[] = []
let place = 0 // of places, from 1
let speaking: number[] = []
let drawing: RenderTask | undefined
let turn = 0
let unlock: ((password: string) => void) | undefined

const state = () =>
  tell({ page, pages: doc?.numPages ?? 0, place: place, places: places.length, speaking: speaking.slice(0, 500) })

/** Where the terms stand in the text of a page, also across the pieces into which a PDF has cut it. */
function rangesIn(root: Element): Range[] {
  const walk = document.createTreeWalker(root, NodeFilter.SHOW_TEXT)
  const nodes: { node: Node; from: number }[] = []
  let text = ''
  for (let node = walk.nextNode(); node; node = walk.nextNode()) {
    nodes.push({ node, from: text.length })
    text += (node.nodeValue ?? '') + (node.parentElement?.nextElementSibling?.tagName === 'BR' ? '\n' : '')
  }
  const at = (offset: number, end: boolean) => {
    let i = nodes.length - 1
    while (i > 0 && (end ? nodes[i].from >= offset : nodes[i].from > offset)) i--
    const { node, from } = nodes[i]
    return [node, Math.min(offset - from, node.nodeValue?.length ?? 0)] as const
  }
  return spansOf(text, terms).map(([from, to]) => {
    const r = document.createRange()
    r.setStart(...at(from, false))
    r.setEnd(...at(to, true))
    return r
  })
}

function mark() {
  if (places.length) CSS.highlights.set('found', new Highlight(...places))
  else CSS.highlights.delete('found')
  const now = places[place - 1]
  if (!now) {
    CSS.highlights.delete('found-now')
    return
  }
  CSS.highlights.set('found-now', new Highlight(now))
  window.scrollBy({ top: now.getBoundingClientRect().top - window.innerHeight / 3 })
}

/** Draws a page, at its beginning, its end, or the first or last place in it. */
async function draw(n: number, at: 'top' | 'bottom' | 'first' | 'last' | 'here') {
  if (!doc) return
  const mine = ++turn
  drawing?.cancel()
  const shown = await doc.getPage(n)
  const plain = shown.getViewport({ scale: 1 })
  const room = Math.max(120, document.documentElement.clientWidth - 28)
  const viewport = shown.getViewport({ scale: (room / plain.width) * zooms[zoom] })
  const dense = Math.min(window.devicePixelRatio, Math.sqrt(MOST_POINTS / (viewport.width * viewport.height)))
  if (mine !== turn) return
  page = n
  canvas.width = Math.max(1, Math.floor(viewport.width * dense))
  canvas.height = Math.max(1, Math.floor(viewport.height * dense))
  sheet.classList.add('drawn')
  sheet.style.width = viewport.width + 'px'
  sheet.style.height = viewport.height + 'px'
  sheet.style.setProperty('--total-scale-factor', String(viewport.scale))
  layer.replaceChildren()
  drawing = shown.render({ canvas, viewport, transform: [dense, 0, 0, dense, 0, 0] })
  const drawn = drawing.promise.catch(() => {}) // another page is drawn by now, or what could be drawn of it stands there
  const content = await shown.getTextContent()
  if (mine !== turn) return
  await new TextLayer({ textContentSource: content, container: layer, viewport }).render()
  await drawn
  if (mine !== turn) return
  places = terms.length ? rangesIn(layer) : []
  if (at !== 'here') window.scrollTo(0, at === 'bottom' ? document.documentElement.scrollHeight : 0)
  if (at === 'first') place = Math.min(1, places.length)
  else if (at === 'last') place = places.length
  else place = at === 'here' ? Math.min(place, places.length) : 0
  mark()
  state()
}

/** The same; of a page that cannot be drawn it is told that it is damaged. */
const show = (n: number, at: Parameters<typeof draw>[1]) =>
  draw(n, at).catch(() => {
    page = n
    sheet.classList.remove('drawn')
    layer.replaceChildren()
    places = []
    state()
    tell({ failed: 'page' })
  })

/** Finds out on which pages the terms stand, and tells them as they are found. */
async function listen(of: PDFDocumentProxy, found: (n: number) => void) {
  for (let n = 1; n <= Math.min(of.numPages, MOST_LOOKED) && doc === of; n++) {
    try {
      const content = await (await of.getPage(n)).getTextContent()
      const text = content.items.map((i) => ('str' in i ? i.str + (i.hasEOL ? '\n' : '') : '')).join('')
      if (spansOf(text, terms).length) found(n)
    } catch {
      // that page is damaged: the others are looked through all the same
    }
  }
}

async function open(bytes: ArrayBuffer) {
  void doc?.loadingTask.destroy()
  doc = undefined
  speaking = []
  turn++
  const task = getDocument({
    data: new Uint8Array(bytes),
    BinaryDataFactory: HandedIn,
    useWorkerFetch: false,
    disableWorkerRendering: true,
    enableXfa: false,
    maxImageSize: MOST_POINTS * 4,
  })
  task.onPassword = (again: (password: string) => void, why: number) => {
    unlock = again
    tell({ failed: why === PasswordResponses.INCORRECT_PASSWORD ? 'wrong-password' : 'locked' })
  }
  try {
    const it = await task.promise
    doc = it
    if (!terms.length) return await show(1, 'top')
    let first = 0
    const all = listen(it, (n) => {
      speaking.push(n)
      if (!first) void show((first = n), 'first')
      else state()
    })
    await all
    if (!first) await show(1, 'top')
    else state()
  } catch {
    if (!doc) tell({ failed: 'broken' })
  }
}

const go = (n: number, at: 'top' | 'bottom' | 'first' | 'last') => {
  if (doc && n >= 1 && n <= doc.numPages) void show(n, at)
}

function scroll(by: number) {
  const root = document.documentElement
  const end = by > 0 ? root.scrollTop + root.clientHeight >= root.scrollHeight - 2 : root.scrollTop <= 1
  if (end) go(page + Math.sign(by), by > 0 ? 'top' : 'bottom')
  else window.scrollBy({ top: by * window.innerHeight * 0.85 })
}

function next(by: number) {
  const to = place + by
  if (to >= 1 && to <= places.length) {
    place = to
    mark()
    state()
    return
  }
  const other = by > 0 ? speaking.find((n) => n > page) : speaking.findLast((n) => n < page)
  const round = by > 0 ? speaking[0] : speaking.at(-1)
  if ((other ?? round) !== undefined) go((other ?? round)!, by > 0 ? 'first' : 'last')
}

window.addEventListener('message', (e: MessageEvent<Ask>) => {
  if (e.source !== window.parent) return
  const ask = e.data
  if ('open' in ask) {
    terms = ask.terms
    document.documentElement.classList.toggle('dark', ask.dark)
    void open(ask.open)
  } else if ('password' in ask) unlock?.(ask.password)
  else if ('turn' in ask) go(page + ask.turn, 'top')
  else if ('scroll' in ask) scroll(ask.scroll)
  else if ('place' in ask) next(ask.place)
  else if ('given' in ask) {
    wanted.get(ask.given)?.(ask.bytes)
    wanted.delete(ask.given)
  } else {
    zoom = Math.min(zooms.length - 1, Math.max(0, zoom + ask.zoom))
    void show(page, 'here')
  }
})

window.addEventListener('keydown', (e) => {
  const key = { key: e.key, shift: e.shiftKey, ctrl: e.ctrlKey }
  if (e.metaKey || e.altKey || !passes(key)) return
  e.preventDefault()
  tell({ key })
})

let resized = 0
let wide = document.documentElement.clientWidth
window.addEventListener('resize', () => {
  if (document.documentElement.clientWidth === wide) return
  wide = document.documentElement.clientWidth
  cancelAnimationFrame(resized)
  resized = requestAnimationFrame(() => void show(page, 'here'))
})

tell({ ready: true })
