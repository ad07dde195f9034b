import { useMemo } from 'react'
import { Link, useNavigate } from 'react-router'
import type { FollowUpView } from '../../api/desk'
import { useLog } from '../../api/queries'
import { clock, date, dayKey, daysAway, plural } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { TextButton } from '../../kit/button'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { mailOf } from './parts'
import { sentences } from './sentences'

/** What was finished, by day and project; the message of each is one click away. */
export function FinishedLog() {
  const list = useLog()
  const navigate = useNavigate()
  useCommands([{ id: 'back', run: () => void navigate('/follow-ups') }])
  const days = useMemo(() => {
    const out: { key: string; at: number; projects: { name: string; items: FollowUpView[] }[]; n: number }[] = []
    for (const f of list.data?.pages.flatMap((p) => p.followUps) ?? []) {
      const key = dayKey(f.finished)
      let day = out.find((d) => d.key === key)
      if (!day) out.push((day = { key, at: f.finished, projects: [], n: 0 }))
      let project = day.projects.find((p) => p.name === (f.project ?? ''))
      if (!project) day.projects.push((project = { name: f.project ?? '', items: [] }))
      project.items.push(f)
      day.n++
    }
    for (const d of out)
      d.projects.sort((a, b) => (a.name === '' ? 1 : b.name === '' ? -1 : a.name.localeCompare(b.name)))
    return out
  }, [list.data])
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loadingWhatWasFinished} />
  if (!days.length) return <Empty title={sentences.nothingIsFinishedYet}>{sentences.whatYouFinishStands}</Empty>
  return (
    <div className="h-full overflow-y-auto px-[22px] pt-4 pb-8 max-[700px]:px-3">
      <Heading>{sentences.finishedTitle}</Heading>
      <p className="mb-2 text-ink-500">
        {sentences.theLogOfWhat}{' '}
        <Link to="/follow-ups" className="text-accent underline">
          {sentences.backToTheFollow}
        </Link>
      </p>
      {days.map((d) => (
        <section key={d.key} aria-label={date(d.at)} className="mt-4">
          <h2 className="flex justify-between border-b-2 border-kelp-600 px-0.5 pb-1.5 text-[13.5px]">
            {daysAway(d.at) === 0 ? sentences.today : daysAway(d.at) === -1 ? sentences.yesterday : date(d.at)}
            <span className="font-medium text-ink-500">{plural(d.n, sentences.followUp)}</span>
          </h2>
          {d.projects.map((p) => (
            <div
              key={p.name}
              className="grid grid-cols-[130px_minmax(0,1fr)] gap-3 border-b border-sand-200 py-1.5 max-[700px]:grid-cols-1 max-[700px]:gap-0"
            >
              <h3 className="truncate pt-1 text-[12.5px] font-[650] text-ink-500">{p.name || sentences.noProject}</h3>
              <ul>
                {p.items.map((f) => (
                  <li key={f.uid} className="flex min-h-7 items-baseline gap-2 py-1" data-followup={f.title}>
                    <span className="w-11 shrink-0 text-right text-[12px] text-ink-500 tabular-nums">
                      {clock(f.finished)}
                    </span>
                    <Link
                      to={'/follow-ups/' + encodeURIComponent(f.uid)}
                      className="target min-w-0 font-semibold break-words hover:underline"
                    >
                      {f.title}
                    </Link>
                    {f.status === 'cancelled' && <Chip>{sentences.cancelledShort}</Chip>}
                    {f.conversation > 0 && (
                      <Link
                        to={mailOf(f)}
                        className="min-w-0 shrink truncate text-[12px] text-ink-500 hover:text-ink-900 hover:underline"
                      >
                        {f.from} — {f.subject || sentences.noSubject}
                      </Link>
                    )}
                  </li>
                ))}
              </ul>
            </div>
          ))}
        </section>
      ))}
      {list.hasNextPage && (
        <TextButton className="mt-4" onClick={() => void list.fetchNextPage()}>
          {sentences.showEarlierOnes}
        </TextButton>
      )}
    </div>
  )
}
