import { Dialog } from '../kit/dialog'
import { sentences } from './sentences'

/** Asks before one signs out while something has not reached the program, as that goes with it. */
export const AskToLeave = ({ unsent, stay, leave }: { unsent: string; stay: () => void; leave: () => void }) => (
  <Dialog
    title={sentences.signOut}
    text={sentences.notReachedYet(unsent)}
    does={sentences.signOutAndLose}
    open
    onOpenChange={(open) => !open && stay()}
    onDo={leave}
  />
)
