import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { EbbeError, get, post, told } from '../../api/client'
import type { InvitationToken, Said } from '../../api/desk'
import type { Others, PersonView, Standing } from '../../api/gen/identity'
import { client } from '../../api/queries'
import { long } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Dialog } from '../../kit/dialog'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { Loading } from '../../kit/loading'
import { useOnce } from '../../kit/once'
import { Part } from './part'
import { sentences } from './sentences'

const anew = () => client.invalidateQueries({ queryKey: ['others'] })

/** Who is in this Ebbe, for whoever looks after them: nothing of their mail. */
export function People() {
  const { say } = useDesk()
  const { data } = useQuery({
    queryKey: ['others'],
    queryFn: () => get<Others>('/others'),
    refetchInterval: (q) => (q.state.data?.people.some((p) => p.gone) ? 2000 : false),
  })
  const [still, setStill] = useState('')
  if (!data) return <Loading what={sentences.loading} />
  const does = async (path: string, body: unknown, text: string) => {
    try {
      await post(path, body)
      say({ text })
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
    void anew()
  }
  const send = async (p: PersonView, days: number) => {
    try {
      const { text } = await post<Said>(`/others/${p.id}/send`, { days })
      setStill(text)
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
    void anew()
  }
  const stand = (p: PersonView, s: Standing) => void does('/others/' + p.id, s, sentences.standsOtherwise)
  return (
    <Part id="people" name={sentences.people} about={sentences.eachHasTheirOwn}>
      <ul>
        {data.people.map((p) => (
          <li
            key={p.id}
            className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-t border-sand-200 py-2"
            data-person={p.address}
          >
            <span className="min-w-0 flex-1 basis-56">
              <b>{p.name}</b>
              <span className="block truncate text-[12.5px] text-ink-500">
                {[
                  p.address,
                  p.here && sentences.you,
                  p.admin && sentences.looksAfterPeople,
                  p.codes && sentences.withCodes,
                  p.paused && !p.gone && sentences.paused,
                  p.leaves > 0 && (p.gone ? sentences.hasLeft : sentences.leavesOn(long(p.leaves))),
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </span>
            </span>
            {!p.here && !p.gone && (
              <>
                <TextButton small onClick={() => stand(p, { admin: !p.admin })}>
                  {p.admin ? sentences.letNotLookAfter : sentences.letLookAfter}
                </TextButton>
                {p.paused ? (
                  <TextButton small onClick={() => stand(p, { paused: false })}>
                    {sentences.openAgain}
                  </TextButton>
                ) : (
                  <Dialog
                    title={sentences.pauseThem(p.name)}
                    text={sentences.pausedMeans}
                    does={sentences.pause}
                    onDo={() => stand(p, { paused: true })}
                  >
                    <TextButton small tone="late">
                      {sentences.pause}
                    </TextButton>
                  </Dialog>
                )}
                {p.leaves > 0 ? (
                  <TextButton
                    small
                    onClick={() =>
                      void does(`/others/${p.id}/keep`, {}, sentences.staysAfterAll).then(() => setStill(''))
                    }
                  >
                    {sentences.letStay}
                  </TextButton>
                ) : (
                  <Dialog
                    title={sentences.sendThemAway(p.name)}
                    text={sentences.sentAwayMeans}
                    does={sentences.inAWeek}
                    onDo={() => void send(p, 7)}
                    also={{ does: sentences.now, onDo: () => void send(p, 0) }}
                  >
                    <TextButton small tone="late">
                      {sentences.sendAway}
                    </TextButton>
                  </Dialog>
                )}
              </>
            )}
          </li>
        ))}
      </ul>
      {still && (
        <p className="mt-3 rounded-[9px] bg-sand-100 px-4 py-3 wrap-anywhere" role="status" data-testid="sent-away">
          {still}
        </p>
      )}
      {data.invitations.length > 0 && (
        <>
          <h3 className="mt-7 mb-1 text-[15px]">{sentences.openInvitations}</h3>
          <ul>
            {data.invitations.map((i) => (
              <li
                key={i.id}
                className="flex items-baseline gap-3 border-t border-sand-200 py-1.5"
                data-testid="invitation"
              >
                <span className="min-w-0 flex-1 wrap-anywhere">
                  {sentences.invitedUntil(i.name, i.address, long(i.expires))}
                </span>
                <TextButton
                  small
                  onClick={() => void does('/invitations/take-back', { id: i.id }, sentences.invitationTaken)}
                >
                  {sentences.takeItBack}
                </TextButton>
              </li>
            ))}
          </ul>
        </>
      )}
      <Inviting />
    </Part>
  )
}

function Inviting() {
  const { say } = useDesk()
  const [name, setName] = useState('')
  const [address, setAddress] = useState('')
  const [wrong, setWrong] = useState<EbbeError | null>(null)
  const [made, setMade] = useState<{ name: string; link: string } | null>(null)
  const finished = useFinished('invited-name', 'invited-address')
  const submit = useOnce(async () => {
    setWrong(null)
    try {
      const { token } = await post<InvitationToken>('/invitations', { name, address })
      setMade({ name, link: location.origin + '/invited#' + token })
      finished()
      setName('')
      setAddress('')
    } catch (e) {
      setWrong(e instanceof EbbeError ? e : new EbbeError(told(e), 0, '', 'address'))
    }
    void anew()
  })
  const at = (field: string) => (wrong?.field === field ? wrong.message : undefined)
  return (
    <>
      <h3 className="mt-7 mb-2 text-[15px]">{sentences.inviteSomebody}</h3>
      {made && (
        <div className="mb-4 rounded-[9px] bg-sand-100 px-4 py-3" data-testid="invitation-link">
          <p className="text-ink-500">{sentences.linkFor(made.name)}</p>
          <code className="my-2 block text-[13px] break-all">{made.link}</code>
          {navigator.clipboard && (
            <Button
              ground="line"
              size="small"
              onClick={() =>
                void navigator.clipboard.writeText(made.link).then(() => say({ text: sentences.linkCopied }))
              }
            >
              {sentences.copyTheLink}
            </Button>
          )}
        </div>
      )}
      <form
        noValidate
        className="flex max-w-md flex-col items-start gap-2.5"
        onSubmit={(e) => {
          e.preventDefault()
          submit()
        }}
      >
        <Field
          id="invited-name"
          label={sentences.theirName}
          className="w-full"
          value={name}
          wrong={at('name')}
          onChange={(e) => setName(e.target.value)}
        />
        <Field
          id="invited-address"
          label={sentences.theirAddress}
          type="email"
          className="w-full"
          value={address}
          wrong={at('address')}
          onChange={(e) => setAddress(e.target.value)}
        />
        <Button type="submit" quiet>
          {sentences.makeInvitation}
        </Button>
      </form>
    </>
  )
}
