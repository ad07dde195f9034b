import type { ConversationView } from '../../api/desk'
import { EventLine, Invitation } from '../calendar/invitation'
import { IsIt } from '../waiting/offer'
import { Going } from '../write/going'
import type { Tray } from './deciding'
import { Facts } from './facts'
import { SharedLines } from './share'

/** What machines tell in it, what it may be the answer to, what is on its way from here, and what of it is in the week. */
export const Above = ({ data, edit }: { data: ConversationView; edit: (tray: Tray) => void }) => (
  <>
    {data.shared.length > 0 && <SharedLines shared={data.shared} />}
    {data.facts.length > 0 && <Facts facts={data.facts} edit={edit} />}
    {data.offers.length > 0 && (
      <div className="mb-3 grid gap-1.5">
        {data.offers.map((o, i) => (
          <IsIt key={o.uid} uid={o.uid} offer={o} title={o.title} listens={i === 0} />
        ))}
      </div>
    )}
    {data.going.length > 0 && (
      <div className="mb-3 grid gap-2">
        {data.going.map((m) => (
          <Going key={m.id} m={m} />
        ))}
      </div>
    )}
    {data.events
      .filter((e) => !data.invitations.some((i) => i.event.uid === e.uid))
      .map((e) => (
        <EventLine key={e.uid} e={e} />
      ))}
    {data.invitations.map((i) => (
      <Invitation key={i.message + i.event.uid} i={i} />
    ))}
  </>
)
