import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link, useNavigate, useParams } from 'react-router'
import { api } from '../../api/base'
import { get } from '../../api/client'
import type { FileRow, FilesView } from '../../api/desk'
import { long, size } from '../../api/times'
import { cameFromEbbe, fromAddress, useInAddress } from '../../frame/address'
import { useCommands } from '../../frame/commands'
import { Button, LinkButton, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { fileIn, fileText, pathOf, sameFile, zipOf } from '../worktop/beside'
import { FilePane } from './pane'
import { useSendOn } from './sending'
import { sentences } from './sentences'

/** All files of a conversation: gone through one by one, chosen, saved and sent on together. */
export function Files() {
  const id = Number(useParams().id)
  const { data, error, refetch } = useQuery({
    queryKey: ['files', id],
    queryFn: () => get<FilesView>(`/conversations/${id}/files`),
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  if (!data.files.length) return <Empty title={sentences.none}>{sentences.noneHere}</Empty>
  return <Listed view={data} back={['/c/' + id, sentences.toConversation]} />
}

/** All files that went between the reader and somebody. */
export function FilesOfPerson() {
  const address = encodeURIComponent(useParams().address ?? '')
  const { data, error, refetch } = useQuery({
    queryKey: ['files', 'person', address],
    queryFn: () => get<FilesView>('/person/files?address=' + address),
    staleTime: 0,
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  if (!data.files.length) return <Empty title={sentences.none}>{sentences.noneBetween}</Empty>
  return <Listed view={data} back={['/person/' + address, sentences.toPerson]} />
}

function Listed({ view, back: [back, toBack] }: { view: FilesView; back: [path: string, name: string] }) {
  const navigate = useNavigate()
  const { files } = view
  const [at, setAt] = useState(() =>
    Math.max(
      files.findIndex((f) => sameFile(f, fileIn(fromAddress('file')))),
      0,
    ),
  )
  const [chosen, setChosen] = useState<ReadonlySet<string>>(new Set())
  const one = files[Math.min(at, files.length - 1)]
  useInAddress({ file: fileText(one) }, (was) =>
    setAt(
      Math.max(
        files.findIndex((f) => sameFile(f, fileIn(was('file')))),
        0,
      ),
    ),
  )
  const go = (n: number) => setAt(Math.min(files.length - 1, Math.max(0, n)))
  const toggle = (f: FileRow) => {
    const next = new Set(chosen)
    if (!next.delete(fileText(f))) next.add(fileText(f))
    setChosen(next)
  }
  const all = () => setChosen(new Set(files.map(fileText)))
  const taken = files.filter((f) => chosen.has(fileText(f)))
  const sendOn = useSendOn()
  useCommands([
    { id: 'next', run: () => go(at + 1) },
    { id: 'previous', run: () => go(at - 1) },
    { id: 'first', run: () => go(0) },
    { id: 'last', run: () => go(files.length - 1) },
    { id: 'choose', run: () => toggle(one) },
    { id: 'choose-all', run: all },
    taken.length
      ? { id: 'choose-none', run: () => setChosen(new Set()) }
      : { id: 'back', run: () => void (cameFromEbbe() ? navigate(-1) : navigate(back)) },
  ])
  return (
    <div className="files-grid">
      <section aria-label={sentences.files} className="grid min-h-0 grid-rows-[auto_minmax(0,1fr)] bg-sand-50">
        <div className="border-b border-sand-200 px-4 pt-4 pb-2.5 text-[12.5px]">
          <Heading size="middle">{sentences.of(view.of)}</Heading>
          <p className="mt-0.5 mb-2 flex flex-wrap gap-x-3 text-ink-500">
            {sentences.sum(files.length, view.bytes)}
            <Link to={back} className="text-accent hover:underline">
              {toBack}
            </Link>
          </p>
          <p className="flex min-h-7 flex-wrap items-center gap-1.5">
            {taken.length > 0 && (
              <>
                <LinkButton size="small" href={taken.length === 1 ? api + pathOf(taken[0]) : zipOf(taken)} download>
                  {sentences.saveTogether(taken.length)}
                </LinkButton>
                <Button size="small" ground="line" onClick={() => void sendOn(taken)}>
                  {sentences.sendTogether(taken.length)}
                </Button>
              </>
            )}
            {taken.length < files.length && <TextButton onClick={all}>{sentences.all}</TextButton>}
            {taken.length > 0 && <TextButton onClick={() => setChosen(new Set())}>{sentences.noneChosen}</TextButton>}
          </p>
        </div>
        <List label={sentences.files} className="min-h-0 overflow-y-auto">
          {files.map((f, i) => (
            <Row
              key={fileText(f)}
              title={f.file.name}
              current={i === at}
              className="flex items-start gap-2.5 px-4 py-2 text-[12.5px]"
              onChoose={() => setAt(i)}
            >
              <Checkbox
                label={sentences.choose(f.file.name)}
                checked={chosen.has(fileText(f))}
                onChange={() => toggle(f)}
              />
              <span className="min-w-0 flex-1">
                <b className="block truncate text-[13px] font-[600]">{f.file.name}</b>
                <span className="block truncate text-ink-500">
                  {f.own ? sentences.you : f.from.name || f.from.address} · {long(f.at)}
                </span>
              </span>
              <span className="shrink-0 text-ink-500">{size(f.file.size)}</span>
            </Row>
          ))}
        </List>
      </section>
      <FilePane
        of={one}
        file={one.file}
        place={[at + 1, files.length]}
        onStep={(by) => go(at + by)}
        className="file-shown"
      />
    </div>
  )
}
