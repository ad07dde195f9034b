import { useState } from 'react'
import { EbbeError, post, told } from '../../api/client'
import type { TeamMade } from '../../api/desk'
import { Steward } from '../../api/gen/together'
import { useBoxes } from '../../api/queries'
import { Button } from '../../kit/button'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { useOnce } from '../../kit/once'
import { Part } from './part'
import { sentences } from './sentences'

/** The teams in whose boxes one works, and a new one. */
export function Teams() {
  const { data, error, refetch } = useBoxes()
  const [name, setName] = useState('')
  const [wrong, setWrong] = useState('')
  const finished = useFinished('team-new')
  const submit = useOnce(async () => {
    setWrong('')
    try {
      const { box } = await post<TeamMade>('/boxes', { name })
      finished()
      window.location.assign(`/in/${box}/setup/team`)
    } catch (e) {
      setWrong(e instanceof EbbeError ? e.message : told(e))
    }
  })
  if (error && !data) return <Failed error={error} again={() => void refetch()} />
  if (!data) return <Loading what={sentences.loading} />
  const teams = data.filter((b) => b.name)
  return (
    <Part id="teams" name={sentences.teams} about={sentences.aTeamIs}>
      {teams.length === 0 && <p className="text-ink-500">{sentences.inNoTeam}</p>}
      <ul>
        {teams.map((b) => (
          <li
            key={b.id}
            data-testid="team"
            className="flex flex-wrap items-baseline gap-x-4 border-t border-sand-200 py-2"
          >
            <a
              href={`/in/${b.id}/`}
              className="min-w-0 flex-1 basis-56 truncate font-semibold text-accent hover:underline"
            >
              {b.name}
            </a>
            <span className="text-[12.5px] text-ink-500">
              {[sentences.leftThere(b.left), b.role === Steward && sentences.youLookAfterIt]
                .filter(Boolean)
                .join(' · ')}
            </span>
          </li>
        ))}
      </ul>
      <h3 className="mt-7 mb-2 text-[15px]">{sentences.newTeam}</h3>
      <form
        noValidate
        className="flex max-w-md flex-col items-start gap-2.5"
        onSubmit={(e) => {
          e.preventDefault()
          submit()
        }}
      >
        <Field
          id="team-new"
          label={sentences.whatItIsCalled}
          className="w-full"
          value={name}
          wrong={wrong || undefined}
          onChange={(e) => setName(e.target.value)}
        />
        <Button type="submit" quiet>
          {sentences.makeTheTeam}
        </Button>
      </form>
    </Part>
  )
}
