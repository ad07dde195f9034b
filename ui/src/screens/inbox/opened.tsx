import { useEffect } from 'react'
import { useNavigate, useParams } from 'react-router'
import { useConversation } from '../../api/queries'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Conversation } from './conversation'
import { Dock } from './dock'

/** One conversation on its own, wherever it is, with the same decisions. */
export function Opened() {
  const id = Number(useParams().id)
  const navigate = useNavigate()
  const { look } = useDesk()
  const { data } = useConversation(id)
  const unread = data?.slip.unread
  const place = data?.slip.position.place
  useEffect(() => { if (unread && place !== 'inbox') look(id) }, [id, unread, place, look])
  const back = () => void (window.history.length > 1 ? navigate(-1) : navigate('/'))
  useCommands([{ id: 'back', name: 'Back', keys: ['Escape'], run: back }])
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_232px] grid-rows-[minmax(0,1fr)_auto] max-[1060px]:grid-cols-1">
      <Conversation id={id} slip={data?.slip} />
      <Dock slip={data?.slip} onAway={back} position={data && 'Escape goes back'} />
    </div>
  )
}
