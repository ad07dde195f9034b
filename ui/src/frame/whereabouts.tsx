import { useState } from 'react'
import { Link } from 'react-router'
import { client, useSites } from '../api/queries'
import { plural } from '../api/times'
import { CardButton } from '../kit/button'
import { Popup } from '../kit/popup'
import { FRAME, useCommands } from './commands'
import { useDesk } from './desk'
import { sentences } from './sentences'

/** Where the user is: what waits for a place comes back when they say that they are there. */
export function Whereabouts({ name }: { name: string }) {
  const { data } = useSites()
  const { act } = useDesk()
  const [open, setOpen] = useState(false)
  const here = data?.sites.find((s) => s.id === data.here)
  const be = (id: number) => {
    setOpen(false)
    void act(`/places/${id}/here`)
  }
  useCommands(
    data?.sites.map((s) => ({ id: 'here-' + s.id, name: sentences.iAmAt(s.name), run: () => be(s.id) })) ?? [],
    FRAME,
  )
  return (
    <Popup
      label={sentences.whereAreYou}
      look="line"
      open={open}
      onOpenChange={(o) => {
        setOpen(o)
        if (o) void client.invalidateQueries({ queryKey: ['places'] })
      }}
      trigger={
        <>
          {name}
          {here ? sentences.at(here.name) : data?.sites.length ? sentences.iAmAtJoined : ''}
        </>
      }
    >
      <p className="px-2 pt-1 pb-2 text-[12.5px] text-ink-500">{sentences.whereAreYouConversations}</p>
      {data?.sites.map((s) => (
        <CardButton small look="bare" key={s.id} onClick={() => be(s.id)} aria-pressed={s.id === data.here}>
          <b>{s.name}</b>{' '}
          <span className="text-[12px] text-ink-500">
            {s.id === data.here
              ? sentences.youAreHere
              : s.waiting
                ? plural(s.waiting, sentences.conversationWaits, sentences.conversationsWait)
                : ''}
          </span>
        </CardButton>
      ))}
      {!!data?.here && (
        <CardButton small look="bare" onClick={() => be(0)}>
          {sentences.nowhereInParticular}
        </CardButton>
      )}
      {!data?.sites.length && (
        <p className="px-2 pb-2 text-ink-500">
          {sentences.noPlacesYetAdd}{' '}
          <Link to="/setup" className="text-accent underline" onClick={() => setOpen(false)}>
            {sentences.setup}
          </Link>
          {sentences.orSnoozeAConversation}
        </p>
      )}
    </Popup>
  )
}
