import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { get, told } from '../../api/client'
import type { MoveView, Scope, ScopeView } from '../../api/desk'
import { digits } from '../../api/digits'
import { Button } from '../../kit/button'
import { ChoiceList } from '../../kit/choose'
import { useKeptValue } from '../../kit/keptvalue'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'
import { SuchField } from './such'

interface Props {
  id: number
  onAway: (away: { scope: Scope; words: string }) => void
  onClose: () => void
}

/** Whom that would have hit, or why it cannot be, once it is chosen. */
function noteOf(s: ScopeView, chosen: boolean, of: number) {
  if (s.wrong) return chosen ? s.wrong : ''
  return sentences.wouldHaveHit(digits(s.count), digits(of), s.people)
}

/** Putting away for good a sender, a list, a domain or what is such, with how many people that hits. */
export function NeverTray({ id, onAway, onClose }: Props) {
  const [words, setWords] = useKeptValue<string | null>('never-such', null)
  const { data, error } = useQuery({
    queryKey: ['rules', 'never', id, words],
    queryFn: ({ signal }) =>
      get<MoveView>(
        `/conversations/${id}/streams?` + new URLSearchParams({ away: '1', ...(words && { words }) }).toString(),
        signal,
      ),
    placeholderData: (before) => before,
    staleTime: 0,
  })
  const [scope, setScope] = useState<Scope>('domain')
  const about = data?.scopes.find((s) => s.scope === scope)
  const such = scope === 'such'
  return (
    <Tray
      label={sentences.neverAgain}
      testid="never-tray"
      layout="middle"
      onClose={onClose}
      onSubmit={() => {
        if (about && !about.wrong) onAway({ scope, words: such ? (words ?? data?.such ?? '') : '' })
      }}
    >
      {error && <p>{told(error)}</p>}
      {data && (
        <div className="min-w-72 flex-1">
          <ChoiceList
            label={sentences.neverAgain}
            value={scope}
            options={data.scopes.map((s) => ({
              id: s.scope,
              name: s.name,
              note: noteOf(s, s.scope === scope, data.of),
            }))}
            onChange={setScope}
          />
          {such && <SuchField value={words ?? data.such} onChange={setWords} />}
          <p className="mt-1 px-2 text-[12px] text-ink-500">{sentences.putAwayIsBinned}</p>
        </div>
      )}
      {data && (
        <Button type="submit" autoFocus disabled={!!about?.wrong}>
          {sentences.neverAgain}
        </Button>
      )}
      <Button quiet onClick={onClose}>
        {sentences.stay}
      </Button>
    </Tray>
  )
}
