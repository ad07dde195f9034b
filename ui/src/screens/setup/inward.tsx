import { useQuery } from '@tanstack/react-query'
import { get, post, told } from '../../api/client'
import type { InwardView } from '../../api/desk'
import { client } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { Button } from '../../kit/button'
import { Dialog } from '../../kit/dialog'
import { Part } from './part'
import { sentences } from './sentences'

/** The user's private addresses: what is sent to them becomes a follow-up, or comes back as a note. */
export function Inward() {
  const { say } = useDesk()
  const { data } = useQuery({ queryKey: ['inward'], queryFn: () => get<InwardView>('/inward') })
  if (!data) return null
  const anew = () => {
    void post<InwardView>('/inward')
      .then((v) => {
        client.setQueryData(['inward'], v)
        say({
          text: data.made ? sentences.youHaveNewAddresses : sentences.youHaveAddressesNow,
        })
      })
      .catch((e: unknown) => say({ text: told(e), wrong: true }))
  }
  const host = data.host || 'your-host.example'
  const line = (address: string, what: string) => (
    <div className="border-t border-sand-200 py-1.5">
      <code className="block text-[13px] break-all">{address}</code>
      <span className="text-[12.5px] text-ink-500">{what}</span>
    </div>
  )
  return (
    <Part
      id="inward"
      testid="inward"
      name={sentences.addressesIntoEbbe}
      about={data.host ? sentences.sendOrForwardMail : sentences.theyWorkOnceEbbe}
    >
      {data.made && !data.key && (
        <p className="mb-2 text-ink-500" data-testid="made">
          {sentences.youHaveAddressesThey}
        </p>
      )}
      {data.key && <p className="mb-2 font-semibold text-amber-600">{sentences.copyThemNowThey}</p>}
      {data.key && line(`todo-${data.key}@${host}`, sentences.becomesAFollowUp)}
      {data.key && line(`todo-${data.key}+opening@${host}`, sentences.theSameInThe)}
      {data.key && line(`note-${data.key}+fri-9@${host}`, sentences.comesBackToYou)}
      <div className="mt-2 flex items-center gap-3">
        {data.made ? (
          <Dialog
            title={sentences.newAddressesIntoEbbe}
            text={sentences.theOldAddressesEnd}
            does={sentences.makeNewAddresses}
            onDo={anew}
          >
            <Button quiet>{sentences.newAddresses}</Button>
          </Dialog>
        ) : (
          <Button quiet onClick={anew}>
            {sentences.makeAddresses}
          </Button>
        )}
      </div>
    </Part>
  )
}
