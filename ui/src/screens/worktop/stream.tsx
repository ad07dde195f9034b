import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { Link } from 'react-router'
import { get, told } from '../../api/client'
import type { MoveView, Scope, ScopeView } from '../../api/desk'
import { digits } from '../../api/digits'
import { Button } from '../../kit/button'
import { ChoiceList, RadioGroup } from '../../kit/choose'
import { useKeptValue } from '../../kit/keptvalue'
import { Loading } from '../../kit/loading'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'
import { SuchField } from './such'

interface Props {
  id: number
  onTeach: (lesson: { stream: string; scope: Scope; words: string }) => void
  onClose: () => void
}

/** What a lesson would have been about, or why it cannot be, once it is chosen. */
function noteOf(s: ScopeView, chosen: boolean, of: number) {
  if (s.scope === 'one') return ''
  if (s.wrong) return chosen ? s.wrong : ''
  return sentences.wouldHaveBeen(digits(s.count), digits(of), s.examples.slice(0, 2).join('”, “'))
}

/** Into which stream, and of what else that is a lesson: shown with what it would have been about. */
export function StreamTray({ id, onTeach, onClose }: Props) {
  const [words, setWords] = useKeptValue<string | null>('such', null)
  const { data, error } = useQuery({
    queryKey: ['rules', 'move', id, words],
    queryFn: ({ signal }) =>
      get<MoveView>(
        `/conversations/${id}/streams${words ? '?' + new URLSearchParams({ words }).toString() : ''}`,
        signal,
      ),
    placeholderData: (before) => before,
    staleTime: 0,
  })
  const [stream, setStream] = useState<string>()
  const [scope, setScope] = useState<Scope>()
  const other = data?.streams.find((s) => s.id !== data.stream)
  const into = data?.streams.find((s) => s.id === (stream ?? other?.id))
  const about = data?.scopes.find((s) => s.scope === (scope ?? data.usual))
  const such = about?.scope === 'such'
  const ready = into && about && !about.wrong
  return (
    <Tray
      label={sentences.anotherStream}
      testid="stream-tray"
      layout="halves"
      onClose={onClose}
      onSubmit={() => {
        if (ready) onTeach({ stream: into.id, scope: about.scope, words: such ? (words ?? data?.such ?? '') : '' })
      }}
    >
      {error && <p>{told(error)}</p>}
      {!data && !error && <Loading what={sentences.loading} />}
      {data && (
        <>
          <div>
            <h3 className="mb-1.5 text-[12px] text-ink-500">{sentences.intoWhich}</h3>
            <RadioGroup
              label={sentences.intoWhich}
              value={into?.id ?? ''}
              options={data.streams.map((s) => ({ id: s.id, name: sentences.upper(s.name) }))}
              onChange={setStream}
            />
            <p className="mt-2 text-ink-500" data-testid="stream-next">
              {into &&
                sentences.nowIn(data.streams.find((s) => s.id === data.stream)?.name ?? '', into.name, into.next)}
            </p>
            <p className="mt-1">
              <Link to="/delivery" className="font-semibold text-accent hover:underline">
                {sentences.aStreamOfYourOwn}
              </Link>
            </p>
          </div>
          <div>
            <h3 className="mb-1.5 text-[12px] text-ink-500">{sentences.andWhatElse}</h3>
            <ChoiceList
              label={sentences.andWhatElse}
              value={about?.scope ?? 'one'}
              options={data.scopes.map((s) => ({
                id: s.scope,
                name: s.name,
                note: noteOf(s, s.scope === about?.scope, data.of),
              }))}
              onChange={setScope}
            />
            {such && <SuchField value={words ?? data.such} onChange={setWords} />}
          </div>
          <p className="col-span-full flex flex-wrap items-center gap-3 pt-1">
            <Button type="submit" disabled={!ready} autoFocus>
              {sentences.putItThere}
            </Button>
            <Button quiet onClick={onClose}>
              {sentences.stay}
            </Button>
          </p>
        </>
      )}
    </Tray>
  )
}
