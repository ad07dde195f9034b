import { Suspense, useEffect, useState } from 'react'
import { useNavigate, useParams, useSearchParams } from 'react-router'
import { useConversation } from '../../api/queries'
import { putSlips, useSlip } from '../../api/slips'
import { cameFromEbbe, fromAddress, useInAddress } from '../../frame/address'
import { useCommands, useRegistry } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { Conversation } from './conversation'
import type { Tray } from './deciding'
import { Dock } from './dock'
import { sentences } from './sentences'
import { OpenTabs } from './trays'

/** One conversation on its own, wherever it is, with the same decisions. */
export function Opened() {
  const { id } = useParams()
  return <Alone key={id} id={Number(id)} />
}

function Alone({ id }: { id: number }) {
  const navigate = useNavigate()
  const { look } = useDesk()
  const { run } = useRegistry()
  const { data } = useConversation(id)
  const [asks] = useSearchParams()
  const [tray, setTray] = useState<Tray>(() =>
    asks.get('write') === 'remind' ? 'remind' : (fromAddress('tray') as Tray),
  )
  useEffect(() => {
    if (data) putSlips([data.slip])
  }, [data])
  const slip = useSlip(data?.slip.id) ?? data?.slip
  const unread = data?.slip.unread
  const place = data?.slip.position.place
  useEffect(() => {
    if (unread && place !== 'inbox') look(id)
  }, [id, unread, place, look])
  useInAddress({ tray, write: '' }, (was) => setTray(was('tray') as Tray))
  const back = () => void (cameFromEbbe() ? navigate(-1) : navigate('/'))
  const away = () => {
    run('close-open') // its tab, if it has one
    back()
  }
  useCommands([{ id: 'back', run: back }])
  return (
    <div className="flex h-full flex-col">
      <Suspense fallback={null}>
        <OpenTabs id={data?.slip.id} alone />
      </Suspense>
      <div className="alone-grid min-h-0 flex-1">
        <Conversation id={id} slip={slip} edit={setTray} />
        <Dock slip={slip} tray={tray} setTray={setTray} onAway={away} position={data && sentences.escapeGoesBack} />
      </div>
    </div>
  )
}
