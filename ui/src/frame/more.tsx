import { DotsThreeIcon } from '@phosphor-icons/react'
import { memo, useState } from 'react'
import { NavLink, useLocation } from 'react-router'
import { Popup } from '../kit/popup'
import { FoldedBoxes } from './boxes'
import { FoldedCounted } from './counted'
import { sentences } from './sentences'

const folded = [
  ['/writing', sentences.writing],
  ['/calendar', sentences.week],
  ['/delivery', sentences.delivery],
  ['/numbers', sentences.numbers],
  ['/senders', sentences.senders],
  ['/history', sentences.history],
  ['/setup', sentences.setup],
] as const

/** On a narrow screen: the places that have no room in the rail. */
export const More = memo(function More({ stuck }: { stuck: boolean }) {
  const [open, setOpen] = useState(false)
  const at = '/' + useLocation().pathname.split('/')[1]
  const here = folded.find(([to]) => to === at)
  return (
    <span className="max-[700px]:flex-1 min-[701px]:hidden">
      <Popup
        label={sentences.morePlaces}
        look={here ? 'placeOn' : 'place'}
        align="end"
        open={open}
        onOpenChange={setOpen}
        trigger={
          <>
            <DotsThreeIcon size={20} className={stuck ? 'text-coral-600' : ''} aria-hidden />
            <span>{here?.[1] ?? sentences.more}</span>
          </>
        }
      >
        <ul>
          {folded.map(([to, name]) => (
            <li key={to}>
              <NavLink
                to={to}
                className="block rounded-[9px] px-3 py-2.5 hover:bg-sand-100 aria-[current=page]:font-semibold"
                onClick={() => setOpen(false)}
              >
                {name}
                {to === '/writing' && stuck && <span className="ml-1.5 text-coral-600">{sentences.stuck}</span>}
              </NavLink>
            </li>
          ))}
          <FoldedBoxes done={() => setOpen(false)} />
          <FoldedCounted done={() => setOpen(false)} />
        </ul>
      </Popup>
    </span>
  )
})
