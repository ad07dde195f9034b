import type { Slip } from '../../api/desk'
import { useConversation } from '../../api/queries'
import { type Deciding, useDesk } from '../../frame/desk'
import { BlockTray } from './block'
import type { Tray } from './deciding'
import { LeaveTray } from './leave'
import { NeverTray } from './never'
import { StreamTray } from './stream'
import { NoteTray, RenameTray } from './write'

interface Props {
  shown: Tray
  slip: Slip
  decide: (d: Deciding, away?: boolean) => void
  onAway: () => void
  onClose: () => void
}

/** The trays about one conversation that are opened now and then. */
export function SeldomTray({ shown, slip, decide, onAway, onClose }: Props) {
  const { act } = useDesk()
  const send = (what: string, body?: unknown) => {
    onClose()
    void act(`/conversations/${slip.id}/${what}`, body)
  }
  switch (shown) {
    case 'leave-list':
      return (
        <LeaveTray
          id={slip.id}
          onLeave={() => send('leave')}
          onBin={() => decide({ kind: 'bin' }, true)}
          onClose={onClose}
        />
      )
    case 'stream':
      return <StreamTray id={slip.id} onTeach={(lesson) => send('stream', lesson)} onClose={onClose} />
    case 'block':
      return (
        <BlockTray
          id={slip.id}
          onBlock={(domain) => {
            onAway()
            send('block', { domain })
          }}
          onClose={onClose}
        />
      )
    case 'never':
      return (
        <NeverTray
          id={slip.id}
          onAway={(away) => {
            onAway()
            send('never', away)
          }}
          onClose={onClose}
        />
      )
    case 'rename':
      return <RenameTray slip={slip} onName={(text) => decide({ kind: 'rename', text })} onClose={onClose} />
    case 'note':
      return <NoteOf id={slip.id} onNote={(text) => decide({ kind: 'note', text })} onClose={onClose} />
  }
  return null
}

function NoteOf({ id, onNote, onClose }: { id: number; onNote: (text: string) => void; onClose: () => void }) {
  const { data } = useConversation(id)
  return data ? <NoteTray note={data.note} onNote={onNote} onClose={onClose} /> : null
}
