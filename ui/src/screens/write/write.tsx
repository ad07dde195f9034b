import { useState } from 'react'
import { useNavigate, useParams } from 'react-router'
import { post, told, unanswered } from '../../api/client'
import type { DraftView } from '../../api/desk'
import { client, useDraft, useDrafts, useOutbox } from '../../api/queries'
import { plural, short } from '../../api/times'
import { useCommands, useKey } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Empty, Failed } from '../../kit/kit'
import { LineButton } from '../../kit/pieces'
import { useLines } from '../accounts/lines'
import { DockSide } from '../worktop/dock'
import { newMessage, useDrafting } from './drafts'
import { GivenAway } from './give'
import { Going } from './going'
import { sentences } from './sentences.writer'
import { Writer } from './writer'

/** What is being written, and what is on its way out. */
export function Writing() {
  const id = Number(useParams().id) || 0
  const navigate = useNavigate()
  const desk = useDesk()
  const drafts = useDrafts()
  const out = useOutbox()
  const draft = useDraft(id)
  const key = useKey('new-message')
  const drafting = useDrafting()
  const [shown, setShown] = useState<DraftView>()
  // What is typed is not replaced by what was saved.
  if (!id && shown) setShown(undefined)
  if (id && draft.data && shown?.id !== draft.data.id) setShown(draft.data)
  // While the program is away one goes on with what is known here.
  const known = unanswered(draft.error) ? (drafting.at(id) ?? drafts.data?.find((d) => d.id === id)) : undefined
  if (id && known && shown?.id !== id) setShown(known)
  const leave = () => void navigate('/writing')
  const begin = () =>
    void newMessage()
      .then((n) => navigate('/writing/' + n))
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  const lines = useLines().data?.lines
  const text = (line: number) =>
    void post<DraftView>('/drafts', { mode: 'new', message: 0, to: [], line })
      .then((d) => navigate('/writing/' + d.id))
      .catch((e: unknown) => desk.say({ text: told(e), wrong: true }))
  useCommands([
    ...(id ? [{ id: 'back', run: leave, hidden: true }] : []),
    ...(lines?.length ? [{ id: 'new-text', name: sentences.newTextMessage, run: () => text(lines[0].id) }] : []),
  ])
  const going = (out.data?.pages.flatMap((p) => p.messages) ?? []).filter((m) => m.state !== 'kept')
  const list = (drafts.data ?? []).filter((d) => d.id === id || d.text || d.subject || d.to.length)
  return (
    <div className="grid h-full grid-cols-[330px_minmax(0,1fr)] grid-rows-[minmax(0,1fr)_auto] max-[900px]:grid-cols-1">
      <section
        aria-label={sentences.drafts}
        className={`min-h-0 overflow-y-auto border-r border-sand-200 bg-sand-50 px-4 pt-4 pb-6 ${id ? 'max-[900px]:hidden' : ''}`}
      >
        <div className="mb-2 flex items-center justify-between">
          <Heading>{sentences.writing}</Heading>
          <span className="flex items-center gap-3">
            {lines?.map((l) => (
              <TextButton key={l.id} small title={l.says} onClick={() => text(l.id)}>
                {lines.length > 1 ? `${sentences.newText}, ${l.name}` : sentences.newText}
              </TextButton>
            ))}
            <Button onClick={begin}>
              {sentences.newMessage} <span className="ml-1 font-normal">{key.toUpperCase()}</span>
            </Button>
          </span>
        </div>
        <h2 className="mt-3 mb-1 text-[11.5px] font-[650] text-ink-500">{sentences.drafts}</h2>
        {drafts.data && !list.length && <p className="text-ink-500">{sentences.noDraftsMessagesYou}</p>}
        <ul>
          {list.map((d) => (
            <li key={d.id} className="border-t border-sand-200">
              <LineButton on={d.id === id} className="px-2 py-2" onClick={() => void navigate('/writing/' + d.id)}>
                <span className="flex justify-between gap-2">
                  <b className="truncate">{d.to.map((a) => a.name || a.address).join(', ') || sentences.toNobodyYet}</b>
                  <span className="shrink-0 text-[12px] text-ink-500">
                    {d.with
                      ? sentences.withWhom(d.with.split(' ')[0])
                      : d.trail.length
                        ? sentences.fromWhom(d.trail.at(-1)!.by.split(' ')[0])
                        : short(d.changed)}
                  </span>
                </span>
                <span className="block truncate">{d.subject || sentences.withoutASubject}</span>
                <span className="block truncate text-[12.5px] text-ink-500">
                  {d.text || sentences.nothingWrittenYet}
                </span>
              </LineButton>
            </li>
          ))}
        </ul>
        <h2 className="mt-5 mb-1.5 text-[11.5px] font-[650] text-ink-500">{sentences.onItsWayOut}</h2>
        {out.data && !going.length && <p className="text-ink-500">{sentences.nothingWhatYouSend}</p>}
        <div className="grid gap-2">
          {going.map((m) => (
            <Going key={m.id} m={m} about />
          ))}
        </div>
        {out.hasNextPage && (
          <TextButton className="mt-2" onClick={() => void out.fetchNextPage()}>
            {sentences.showMore}
          </TextButton>
        )}
      </section>
      <section aria-label={sentences.message} className="min-h-0 bg-sand-0 px-[26px] pt-4 pb-4 max-[700px]:px-4">
        {!id ? (
          <Empty title={sentences.nothingIsOpen}>{sentences.chooseADraftOn(key.toUpperCase())}</Empty>
        ) : draft.error && shown?.id !== id ? (
          <Failed error={draft.error} again={() => void draft.refetch()} />
        ) : (
          shown?.id === id &&
          (shown.with || draft.data?.with ? (
            <GivenAway draft={draft.data ?? shown} onBack={leave} />
          ) : (
            <Writer
              key={id}
              page
              draft={shown}
              title={sentences.newMessage}
              onClose={leave}
              onSent={() => {
                void client.invalidateQueries({ queryKey: ['drafts'] })
                leave()
              }}
            />
          ))
        )}
      </section>
      <div className="relative col-span-full flex border-t border-sand-300 bg-sand-100 px-4 py-[9px] empty:hidden">
        <DockSide position={list.length ? plural(list.length, sentences.draft) : ''} />
      </div>
    </div>
  )
}
