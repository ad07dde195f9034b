import { Link } from 'react-router'
import { useBoxes } from '../../api/queries'
import { useKey } from '../../frame/commands'
import { sentences } from './sentences'

/** Where one works in teams: to what is one's own in all boxes. */
export function InAllBoxes() {
  const key = useKey('go-mine')
  if ((useBoxes().data ?? []).length < 2) return null
  return (
    <Link to="/mine" className="text-[12.5px] font-semibold text-accent hover:underline" data-tip={key}>
      {sentences.inAllBoxes}
    </Link>
  )
}
