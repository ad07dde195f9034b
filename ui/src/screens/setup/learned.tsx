import { useQuery } from '@tanstack/react-query'
import { Link } from 'react-router'
import { get } from '../../api/client'
import type { CorrectionView, Learned as LearnedView, LessonsView, SenderLearned } from '../../api/desk'
import { digits } from '../../api/digits'
import { short } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { Gauge } from '../../kit/gauge'
import { Failed } from '../../kit/kit'
import { Loading } from '../../kit/loading'
import { Part } from './part'
import { sentences } from './sentences'

/** What Ebbe has learned of what matters: how well that does, of whom, and what it was told; each can be taken away. */
export function Learned() {
  const { data, error, refetch } = useQuery({
    queryKey: ['learned'],
    queryFn: () => get<LearnedView>('/learned'),
    staleTime: 0, // it is learned by itself
  })
  const { takeBack } = useDesk()
  return (
    <Part id="learned" testid="learned" name={sentences.whatEbbeHasLearned} about={sentences.learnedFromWhatYou}>
      {error && <Failed error={error} again={() => void refetch()} />}
      {!data && !error && <Loading what={sentences.loading} />}
      {data && (
        <>
          <p className="mt-2 max-w-xl">
            {sentences.howOftenItWasRight}{' '}
            <Link to="/numbers" className="text-accent underline">
              {sentences.numbers}
            </Link>
          </p>
          <h3 className="mt-6 mb-1 text-[14px]">{sentences.whatYouHaveSaid}</h3>
          {data.corrections.length === 0 && <p className="max-w-xl text-ink-500">{sentences.nothingSaid}</p>}
          <ul className="max-w-xl">
            {data.corrections.map((c) => (
              <Said key={c.entry + '/' + c.conversation} c={c} remove={() => void takeBack(c.entry)} />
            ))}
          </ul>
          <Lessons />
          <h3 className="mt-6 mb-1 text-[14px]">{sentences.whoWrites}</h3>
          {data.senders.length === 0 && <p className="max-w-xl text-ink-500">{sentences.nothingLearned}</p>}
          {data.senders.length > 0 && (
            <table className="w-full max-w-xl border-collapse">
              <thead>
                <tr className="border-b-2 border-ink-900 text-left text-[11.5px] font-[650] text-ink-500">
                  <th scope="col" className="w-5 pb-1">
                    <span className="sr-only">{sentences.importance}</span>
                  </th>
                  <th scope="col" className="w-full pb-1">
                    {sentences.sender}
                  </th>
                  <th scope="col" className="pb-1 pl-6 text-right">
                    {sentences.messagesTitle}
                  </th>
                  <th scope="col" className="pb-1 pl-6 text-right">
                    {sentences.answered}
                  </th>
                  <th scope="col" className="pb-1 pl-6 text-right whitespace-nowrap max-[700px]:hidden">
                    {sentences.withinADay}
                  </th>
                </tr>
              </thead>
              <tbody>
                {data.senders.map((s) => (
                  <Sender key={s.from.address} s={s} />
                ))}
              </tbody>
            </table>
          )}
        </>
      )}
    </Part>
  )
}

/** What was taught by moving mail to other streams, with its examples; each can be removed. */
function Lessons() {
  const { data, error, refetch } = useQuery({
    queryKey: ['rules', 'lessons'],
    queryFn: () => get<LessonsView>('/lessons'),
    staleTime: 0,
  })
  const { act } = useDesk()
  return (
    <section aria-label={sentences.lessons} data-testid="lessons">
      <h3 className="mt-6 mb-1 text-[14px]">{sentences.lessons}</h3>
      {error && <Failed error={error} again={() => void refetch()} />}
      {data && !data.lessons.length && !data.kept.length && (
        <p className="max-w-xl text-ink-500">{sentences.noLessons}</p>
      )}
      <ul className="max-w-xl">
        {data?.lessons.map((l) => (
          <li key={l.id} className="border-b border-sand-200 py-1.5" data-lesson={l.id}>
            <div className="flex flex-wrap items-baseline gap-x-2">
              <span className="min-w-0 flex-1">
                {sentences.whatIs} <b>{l.means}</b> {sentences.comesWith(l.into)}
              </span>
              <span className="text-[12px] text-ink-500">{sentences.ofTheLast(digits(l.count), digits(data.of))}</span>
              <TextButton small onClick={() => void act(`/rules/${l.id}/drop`)}>
                {sentences.remove}
              </TextButton>
            </div>
            {l.examples.length > 0 && (
              <ul className="text-[12px] text-ink-500">
                {l.examples.map((x) => (
                  <li key={x.message} className="truncate">
                    <Link to={'/c/' + x.conversation} className="hover:underline">
                      {x.subject}, {short(x.at)}
                    </Link>
                  </li>
                ))}
              </ul>
            )}
          </li>
        ))}
        {data?.kept.map((k) => (
          <li
            key={k.conversation}
            className="flex flex-wrap items-baseline gap-x-2 border-b border-sand-200 py-1.5"
            data-kept={k.conversation}
          >
            <Link to={'/c/' + k.conversation} className="min-w-0 flex-1 truncate hover:underline">
              <b>{k.from.name || k.from.address}</b> {k.subject}
            </Link>
            <span className="text-[12px] text-ink-500">{sentences.thisOneComesWith(k.into)}</span>
            <TextButton small onClick={() => void act(`/conversations/${k.conversation}/stream/forget`)}>
              {sentences.remove}
            </TextButton>
          </li>
        ))}
      </ul>
    </section>
  )
}

const Sender = ({ s }: { s: SenderLearned }) => (
  <tr className="border-b border-sand-200">
    <td className="py-1.5 pr-2.5">
      <Gauge level={s.level} />
      <span className="sr-only">{sentences.levelOf(s.level)}</span>
    </td>
    <td className="max-w-0 truncate py-1.5" title={s.from.address}>
      <Link to={'/?from=' + encodeURIComponent(s.from.address)} className="hover:underline">
        {s.from.name || s.from.address}
      </Link>
    </td>
    <td className="py-1.5 text-right tabular-nums">{digits(s.messages)}</td>
    <td className="py-1.5 text-right tabular-nums">{digits(s.answered)}</td>
    <td className="py-1.5 text-right tabular-nums max-[700px]:hidden">{digits(s.quick)}</td>
  </tr>
)

const Said = ({ c, remove }: { c: CorrectionView; remove: () => void }) => (
  <li
    className="flex flex-wrap items-baseline gap-x-2 border-b border-sand-200 py-1.5"
    data-correction={c.conversation}
  >
    <Link to={'/c/' + c.conversation} className="min-w-0 flex-1 truncate hover:underline">
      <b>{c.from.name || c.from.address}</b> {c.subject}
    </Link>
    <span className="text-[12px] text-ink-500">
      {c.important ? sentences.important : sentences.notImportant}, {short(c.at)}
    </span>
    <TextButton small onClick={remove}>
      {sentences.remove}
    </TextButton>
  </li>
)
