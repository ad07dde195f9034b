import { team } from '../../api/base'
import type { ConversationView } from '../../api/desk'
import { Between } from './between'
import type { Tray } from './deciding'
import { Owner } from './owner'
import { HandOut } from './source'
import { Dropping, Following, Reading, Writing } from './talk'

/** Below the messages: who of the team writes and reads right now, and what of them can be handed out. */
export const Below = ({ id, data, edit }: { id: number; data: ConversationView; edit: (tray: Tray) => void }) => (
  <>
    <Writing others={data.writing} edit={edit} />
    {data.talk && (
      <>
        <Reading conversation={data.slip.id} />
        <Dropping edit={edit} />
      </>
    )}
    <HandOut conversation={id} message={data.messages.at(-1)?.id ?? 0} />
  </>
)

/** Beside the messages: who of the team has them and follows them, and what is between the reader and their sender. */
export const Aside = ({ view }: { view: ConversationView }) => (
  <>
    {team > 0 && <Owner slip={view.slip} />}
    {view.talk && <Following conversation={view.slip.id} talk={view.talk} />}
    {view.between && <Between view={view} />}
  </>
)
