import { useEffect, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { useConversation } from '../../api/queries'
import { putSlips, useSlip } from '../../api/slips'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Conversation } from './conversation'
import { Dock, type Tray } from './dock'

/** One conversation on its own, wherever it is, with the same decisions. */
export function Opened() {
  const id = Number(useParams().id)
  const navigate = useNavigate()
  const { look } = useDesk()
  const { data } = useConversation(id)
  const [asks] = useSearchParams()
  const [tray, setTray] = useState<Tray>(asks.get('write') === 'remind' ? 'remind' : '')
  useEffect(() => {
    if (data) putSlips([data.slip])
  }, [data])
  const slip = useSlip(data?.slip.id) ?? data?.slip
  const unread = data?.slip.unread
  const place = data?.slip.position.place
  useEffect(() => {
    if (unread && place !== 'inbox') look(id)
  }, [id, unread, place, look])
  const back = () => void (window.history.length > 1 ? navigate(-1) : navigate('/'))
  useCommands([{ id: 'back', run: back }])
  return (
    <div className="grid h-full grid-cols-[minmax(0,1fr)_232px] grid-rows-[minmax(0,1fr)_auto] max-[1060px]:grid-cols-1">
      <Conversation id={id} slip={slip} edit={setTray} />
      <Dock slip={slip} tray={tray} setTray={setTray} onAway={back} position={data && 'Escape goes back'} />
    </div>
  )
}
