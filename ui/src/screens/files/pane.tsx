import {
  CaretLeftIcon,
  CaretRightIcon,
  DownloadSimpleIcon,
  MagnifyingGlassMinusIcon,
  MagnifyingGlassPlusIcon,
  XIcon,
} from '@phosphor-icons/react'
import { useQuery } from '@tanstack/react-query'
import { type ReactNode, useRef, useState } from 'react'
import { api } from '../../api/base'
import { get } from '../../api/client'
import type { FileLook } from '../../api/desk'
import type { File } from '../../api/gen/mail'
import type { Term } from '../../api/gen/search'
import { size } from '../../api/times'
import { DOCK, useCommands, useKey } from '../../frame/commands'
import { Button, IconButton, LinkButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { Failed } from '../../kit/kit'
import type { Ask } from '../../pdf/messages'
import { type FileName, fileText, pathOf } from '../worktop/beside'
import { type At, PDF } from './pdf'
import { useSendOn } from './sending'
import { sentences } from './sentences'

const AT_ONCE = 8 << 20 // bytes; what has more is fetched when it is asked for
const nothing: Term[] = []

interface Props {
  of: FileName
  file: File
  place: [number, number] // which it is of those one goes through
  terms?: Term[]
  onStep: (by: number) => void // to the next file, or the one before
  onClose?: () => void
  onAnswer?: () => void // puts it into an answer
  className?: string
}

/** A file beside what it came with. */
export function FilePane(props: Props) {
  return <One key={fileText(props.of)} {...props} />
}

function One({ of, file, place, terms = nothing, onStep, onClose, onAnswer, className }: Props) {
  const [loaded, setLoaded] = useState(false)
  const [asked, setAsked] = useState(file.size <= AT_ONCE)
  const [at, setAt] = useState<At>()
  const [part, setPart] = useState(1) // of what is shown without a script: where one has turned to,
  const [found, setFound] = useState(0) // the place one is at,
  const [zoom, setZoom] = useState(1) // and how large a picture is
  const asks = terms.length ? 'terms=' + encodeURIComponent(JSON.stringify(terms)) : ''
  const {
    data: look,
    error,
    refetch,
  } = useQuery({
    queryKey: ['file', of.message, of.number, asks],
    queryFn: () => get<FileLook>(`${pathOf(of)}/look?${asks}`),
    staleTime: ({ state }) => (state.data?.shows === 'none' ? 0 : Infinity), // what could not be read is tried another time
    enabled: asked,
  })
  const pdf = useRef<(a: Ask) => void>(null)
  const frame = useRef<HTMLIFrameElement>(null)
  const pane = useRef<HTMLElement>(null)
  const sendOn = useSendOn()
  const dark = document.documentElement.classList.contains('dark')
  const page = `${api}${pathOf(of)}/page?theme=${dark ? 'dark' : 'light'}&${asks}`
  const first = look?.shows === 'picture' ? '#z1' : look?.places ? '#p1' : ''
  const to = (fragment: string) =>
    frame.current?.contentWindow?.location.replace(new URL(page + fragment, window.location.href))
  const isPDF = look?.shows === 'pdf'
  const turn = (by: number) => {
    if (isPDF) return pdf.current?.({ turn: by })
    const next = Math.min(look?.turns ?? 0, Math.max(1, part + by))
    if (!next || next === part) return
    setPart(next)
    to('#t' + next)
  }
  const step = (by: number) => {
    if (isPDF) return pdf.current?.({ place: by })
    const n = look?.places ?? 0
    if (!n) return
    const next = ((found || 1) - 1 + by + n) % n
    setFound(next + 1)
    to('#p' + (next + 1))
  }
  const size_ = (by: number) => {
    if (isPDF) return pdf.current?.({ zoom: by })
    if (look?.shows !== 'picture') return
    const next = Math.min(4, Math.max(1, zoom + by))
    setZoom(next)
    to('#z' + next)
  }
  const nextFile = useKey('next-file')
  const nextPlace = useKey('next-place')
  const larger = useKey('larger')
  const smaller = useKey('smaller')
  useCommands(
    [
      { id: 'turn-on', run: () => turn(1) },
      { id: 'turn-back', run: () => turn(-1) },
      { id: 'page-down', run: () => (isPDF ? pdf.current?.({ scroll: 1 }) : turn(1)), hidden: true },
      { id: 'page-up', run: () => (isPDF ? pdf.current?.({ scroll: -1 }) : turn(-1)), hidden: true },
      { id: 'larger', run: () => size_(1) },
      { id: 'smaller', run: () => size_(-1) },
      { id: 'next-file', run: () => onStep(1) },
      { id: 'previous-file', run: () => onStep(-1) },
      ...(terms.length
        ? [
            { id: 'next-place', run: () => step(1) },
            { id: 'previous-place', run: () => step(-1) },
          ]
        : []),
      ...(onClose ? [{ id: 'back', run: onClose, hidden: true }] : []),
    ],
    DOCK,
  )
  const places = isPDF ? (at?.speaking.length ?? 0) : (look?.places ?? 0)
  return (
    <section
      ref={pane}
      aria-label={sentences.theFile(file.name)}
      data-testid="file"
      tabIndex={-1}
      className={cx('grid min-h-0 min-w-0 grid-rows-[auto_minmax(0,1fr)_auto] bg-sand-100', className)}
    >
      <header className="border-b border-sand-200 px-4 py-2.5 text-[12.5px]">
        <div className="flex items-center gap-1">
          <h2 className="min-w-0 flex-1 truncate text-[13.5px] font-[650]" title={file.name}>
            {file.name}
          </h2>
          {place[1] > 1 && (
            <>
              <IconButton label={sentences.fileBefore} onClick={() => onStep(-1)}>
                <CaretLeftIcon size={15} aria-hidden />
              </IconButton>
              <span className="text-ink-500" data-testid="which-file">
                {sentences.ofFiles(...place)}
              </span>
              <IconButton label={sentences.nextFile(nextFile)} onClick={() => onStep(1)}>
                <CaretRightIcon size={15} aria-hidden />
              </IconButton>
            </>
          )}
          {onClose && (
            <IconButton label={sentences.close} onClick={onClose}>
              <XIcon size={15} aria-hidden />
            </IconButton>
          )}
        </div>
        <div className="mt-1 flex flex-wrap items-center gap-x-2 gap-y-1 text-ink-500" data-testid="where-in-file">
          {isPDF && at && at.pages > 1 && (
            <span className="flex items-center">
              <IconButton label={sentences.pageBefore} disabled={at.page < 2} onClick={() => turn(-1)}>
                <CaretLeftIcon size={13} aria-hidden />
              </IconButton>
              {sentences.page(at.page, at.pages)}
              <IconButton label={sentences.nextPage} disabled={at.page >= at.pages} onClick={() => turn(1)}>
                <CaretRightIcon size={13} aria-hidden />
              </IconButton>
            </span>
          )}
          {places > 0 && (
            <span className="rounded-[6px] bg-tide-100 px-1.5 text-[11.5px] font-[550] text-tide-800">
              {isPDF
                ? at!.pages > 1
                  ? sentences.speaks(places, at!.pages)
                  : sentences.placeOf(at!.place, at!.places)
                : sentences.placeOf(found || 1, places)}
            </span>
          )}
          {(isPDF || look?.shows === 'picture') && (
            <span className="flex">
              <IconButton label={sentences.smaller(smaller)} onClick={() => size_(-1)}>
                <MagnifyingGlassMinusIcon size={15} aria-hidden />
              </IconButton>
              <IconButton label={sentences.larger(larger)} onClick={() => size_(1)}>
                <MagnifyingGlassPlusIcon size={15} aria-hidden />
              </IconButton>
            </span>
          )}
          <span className="ml-auto flex flex-wrap gap-1.5">
            <Button size="small" ground="line" onClick={() => void sendOn([of])}>
              {sentences.sendOn}
            </Button>
            {onAnswer && (
              <Button size="small" ground="line" onClick={onAnswer}>
                {sentences.intoAnswer}
              </Button>
            )}
            <LinkButton size="small" ground="line" href={api + pathOf(of)} download>
              <DownloadSimpleIcon size={14} className="text-accent" aria-hidden />
              {sentences.save} <span className="text-ink-500">{size(file.size)}</span>
            </LinkButton>
          </span>
        </div>
        {look?.says && look.shows !== 'none' && (
          <p className="mt-1 text-amber-600" data-testid="file-says">
            {look.says}
          </p>
        )}
      </header>
      <Body>
        {!asked ? (
          <p className="flex flex-wrap items-center gap-3 p-4 text-[13px] text-ink-700">
            {sentences.fetchIt(file.size)}
            <Button size="small" onClick={() => setAsked(true)}>
              {sentences.show}
            </Button>
          </p>
        ) : error ? (
          <Failed error={error} again={() => void refetch()} />
        ) : !look ? (
          <p className="p-4 text-[13px] text-ink-500">{sentences.reading}</p>
        ) : look.shows === 'none' ? (
          <p className="p-4 text-[13px] text-ink-700" data-testid="file-says">
            {look.says}
          </p>
        ) : isPDF ? (
          <PDF path={pathOf(of)} name={file.name} terms={terms} ask={pdf} onAt={setAt} />
        ) : (
          <iframe
            ref={frame}
            title={sentences.theFile(file.name)}
            sandbox=""
            src={page + first}
            tabIndex={-1}
            data-testid="file-frame"
            onLoad={() => setLoaded(true)}
            className={cx('h-full w-full', !loaded && 'invisible')} // no white sheet in the dark
            // What is pressed in it can be chosen and copied; Ebbe has the keys again once the pointer has left.
            onMouseLeave={(e) => document.activeElement === e.currentTarget && pane.current?.focus()}
          />
        )}
      </Body>
      <p className="border-t border-sand-200 px-4 py-1.5 text-[11.5px] text-ink-500 max-[700px]:hidden">
        {terms.length ? sentences.keys(nextPlace, nextFile) : sentences.keysPlain(nextFile)}
      </p>
    </section>
  )
}

const Body = ({ children }: { children: ReactNode }) => <div className="min-h-0 overflow-hidden">{children}</div>
