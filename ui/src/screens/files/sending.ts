import { useNavigate } from 'react-router'
import { newKey, post, told } from '../../api/client'
import type { ConversationView, DraftView } from '../../api/desk'
import { refresh } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import type { FileName } from '../worktop/beside'
import { useDrafting } from '../write/drafts'

const attached = (draft: number, files: FileName[]) => post<DraftView>(`/drafts/${draft}/attach`, { files }, newKey())

/** Begins a message that takes these files along. */
export function useSendOn() {
  const navigate = useNavigate()
  const { say } = useDesk()
  return async (files: FileName[]) => {
    try {
      const draft = await post<DraftView>('/drafts', { mode: 'new', message: 0, to: [] }, newKey())
      await attached(draft.id, files)
      refresh(['outbox'])
      void navigate('/writing/' + draft.id)
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
  }
}

/** Puts a file into the answer to a conversation, which is begun if there is none. */
export function useIntoAnswer() {
  const { say } = useDesk()
  const drafts = useDrafting()
  return async (view: ConversationView, file: FileName, open: () => void) => {
    const answered = view.messages.findLast((m) => !m.own) ?? view.messages.at(-1)
    const begun = view.draft.id > 0 && view.draft.mode.startsWith('reply')
    try {
      const draft = begun
        ? view.draft
        : await post<DraftView>('/drafts', { mode: 'reply', message: answered?.id ?? 0, to: [] }, newKey())
      const now = await attached(draft.id, [file])
      drafts.of(now).files(now.files)
      refresh(['outbox', 'mail'], [], [view.slip.id])
      open()
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
  }
}
