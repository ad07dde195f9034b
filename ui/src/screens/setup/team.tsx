import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { EbbeError, get, post, told } from '../../api/client'
import type { MemberView, TeamView } from '../../api/desk'
import { Member, type Role, Steward, Stranger } from '../../api/gen/together'
import { client } from '../../api/queries'
import { long } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { Dialog } from '../../kit/dialog'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { useOnce } from '../../kit/once'
import { Part } from './part'
import { sentences } from './sentences'

/** The team of the box one is in: who works there, and what it is called. */
export function Team() {
  const { say } = useDesk()
  const { data: team, error, refetch } = useQuery({ queryKey: ['team'], queryFn: () => get<TeamView>('/team') })
  const does = async (path: string, body: unknown, text: string) => {
    try {
      await post(path, body)
      say({ text })
      return true
    } catch (e) {
      say({ text: told(e), wrong: true })
      return false
    } finally {
      void client.invalidateQueries({ queryKey: ['team'] })
      void client.invalidateQueries({ queryKey: ['boxes'] })
    }
  }
  if (error && !team) return <Failed error={error} again={() => void refetch()} />
  if (!team) return <Loading what={sentences.loading} />
  const serves = team.role === Steward
  const stand = (person: number, role: Role, text: string) => does('/team/members', { person, role }, text)
  const leave = async (m: MemberView) => {
    if (await stand(m.id, Stranger, sentences.youLeftTheTeam)) window.location.assign('/')
  }
  return (
    <Part id="team" name={sentences.team} about={sentences.whoWorksHere}>
      <p className="mb-3" data-testid="team-addresses">
        {team.addresses.length ? (
          sentences.getsMailAt(team.addresses.join(', '))
        ) : (
          <>
            {sentences.getsNoMailYet}{' '}
            {serves && (
              <Link to="/accounts" className="text-accent underline">
                {sentences.addAnAccount}
              </Link>
            )}
          </>
        )}
      </p>
      <ul>
        {team.members.map((m) => (
          <li
            key={m.id}
            data-member={m.name}
            className="flex flex-wrap items-baseline gap-x-4 gap-y-1 border-t border-sand-200 py-2"
          >
            <span className="min-w-0 flex-1 basis-56">
              <b>{m.name}</b>
              <span className="block truncate text-[12.5px] text-ink-500">
                {[
                  m.here && sentences.you,
                  m.role === Steward && sentences.looksAfterTeam,
                  sentences.since(long(m.since)),
                ]
                  .filter(Boolean)
                  .join(' · ')}
              </span>
            </span>
            {serves && !m.here && (
              <>
                <TextButton
                  small
                  onClick={() => void stand(m.id, m.role === Steward ? Member : Steward, sentences.standsOtherwise)}
                >
                  {m.role === Steward ? sentences.letNotLookAfterTeam : sentences.letLookAfterTeam}
                </TextButton>
                <Dialog
                  title={sentences.removeFromTeam(m.name)}
                  text={sentences.removedFromTeamMeans}
                  does={sentences.remove}
                  onDo={() => void stand(m.id, Stranger, sentences.removedFromTeam(m.name))}
                >
                  <TextButton small tone="late">
                    {sentences.remove}
                  </TextButton>
                </Dialog>
              </>
            )}
            {m.here && (
              <Dialog
                title={sentences.leaveTeamQuestion(team.name)}
                text={sentences.leavingTeamMeans}
                does={sentences.leave}
                onDo={() => void leave(m)}
              >
                <TextButton small tone="late">
                  {sentences.leaveTheTeam}
                </TextButton>
              </Dialog>
            )}
          </li>
        ))}
      </ul>
      {serves && (
        <>
          <h3 className="mt-7 mb-1 text-[15px]">{sentences.addSomebody}</h3>
          {team.others.length === 0 && <p className="max-w-xl text-ink-500">{sentences.allAreIn}</p>}
          <ul>
            {team.others.map((o) => (
              <li key={o.id} data-other={o.name} className="flex items-baseline gap-4 border-t border-sand-200 py-1.5">
                <span className="min-w-0 flex-1 truncate">
                  {o.name} <span className="text-[12.5px] text-ink-500">{o.address}</span>
                </span>
                <TextButton small onClick={() => void stand(o.id, Member, sentences.addedToTeam(o.name))}>
                  {sentences.add}
                </TextButton>
              </li>
            ))}
          </ul>
          <Naming team={team} does={does} />
          <h3 className="mt-7 mb-1 text-[15px]">{sentences.whoeverLeaves}</h3>
          <Checkbox
            checked={team.names}
            onChange={(keep) => void does('/team/names', { keep }, sentences.standsOtherwise)}
          >
            {sentences.isNamedStill}
          </Checkbox>
          <Ending name={team.name} />
        </>
      )}
    </Part>
  )
}

function Naming({ team, does }: { team: TeamView; does: (p: string, b: unknown, t: string) => Promise<boolean> }) {
  const [name, setName] = useState(team.name)
  const finished = useFinished('team-name')
  const submit = useOnce(async () => {
    if (await does('/team/name', { name }, sentences.isCalledOtherwise)) finished()
  })
  return (
    <form
      noValidate
      className="mt-7 flex max-w-md flex-col items-start gap-2.5"
      onSubmit={(e) => {
        e.preventDefault()
        submit()
      }}
    >
      <Field
        id="team-name"
        label={sentences.whatItIsCalled}
        className="w-full"
        value={name}
        onChange={(e) => setName(e.target.value)}
      />
      <Button type="submit" quiet>
        {sentences.save}
      </Button>
    </form>
  )
}

function Ending({ name }: { name: string }) {
  const [said, setSaid] = useState('')
  const [wrong, setWrong] = useState('')
  const finished = useFinished('team-end')
  const end = async () => {
    setWrong('')
    try {
      await post('/team/end', { name: said })
      finished()
      window.location.assign('/')
    } catch (e) {
      setWrong(e instanceof EbbeError ? e.message : told(e))
    }
  }
  return (
    <>
      <h3 className="mt-7 mb-1 text-[15px]">{sentences.deleteTheTeam}</h3>
      <p className="mb-2 max-w-xl text-ink-500">{sentences.deletingTeamMeans}</p>
      <div className="flex max-w-md flex-col items-start gap-2.5">
        <Field
          id="team-end"
          label={sentences.nameAsItStands(name)}
          className="w-full"
          value={said}
          wrong={wrong || undefined}
          onChange={(e) => setSaid(e.target.value)}
        />
        <Dialog
          title={sentences.deleteTeamQuestion(name)}
          text={sentences.deletingTeamMeans}
          does={sentences.deleteTheTeam}
          onDo={() => void end()}
        >
          <Button ground="late-quiet">{sentences.deleteTheTeam}</Button>
        </Dialog>
      </div>
    </>
  )
}
