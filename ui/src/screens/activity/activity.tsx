import { useInfiniteQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { useNavigate } from 'react-router'
import { get, post } from '../../api/client'
import type { Activity, BoxView, GroupView, LineView } from '../../api/desk'
import { refresh, useBoxes } from '../../api/queries'
import { long } from '../../api/times'
import { flush, fromAddress, useInAddress } from '../../frame/address'
import { useListed } from '../../frame/listed'
import { Button, TextButton } from '../../kit/button'
import { RadioGroup } from '../../kit/choose'
import { Earlier } from '../../kit/earlier'
import { Heading } from '../../kit/heading'
import { Chip, Empty, Failed } from '../../kit/kit'
import { List, Row } from '../../kit/list'
import { Loading } from '../../kit/loading'
import { actors, verbs } from '../history/verbs'
import { sentences } from './sentences'

const useActivity = (box: number) =>
  useInfiniteQuery({
    queryKey: ['activity', box],
    queryFn: ({ pageParam }) => get<Activity>(`/activity?box=${box}&before=${pageParam}`),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next,
  })

/** What concerns the reader in all their teams, the newest first, by conversation. */
export function ActivityScreen() {
  const boxes = (useBoxes().data ?? []).filter((b) => b.name)
  const [box, setBox] = useState(() => Number(fromAddress('box')) || 0)
  const list = useActivity(box)
  const navigate = useNavigate()
  const groups = together(list.data?.pages.flatMap((p) => p.groups) ?? [])
  const open = (g: GroupView) => {
    if (boxes.some((b) => b.here && b.id === g.box)) return void navigate('/c/' + g.conversation)
    flush()
    window.location.assign(`/in/${g.box}/c/${g.conversation}`) // the pages of each box are its own
  }
  const allRead = () =>
    void Promise.all(boxes.filter((b) => !box || b.id === box).map((b) => post('/activity/heard', { box: b.id }))).then(
      () => refresh(['talk']),
      () => {}, // what could not be marked stays new
    )
  const { current, at, setAt, choose } = useListed(groups, keyOf, (key) => 'group-' + key, open)
  useInAddress({ at, box: box ? String(box) : '' }, (was) => {
    setAt(was('at'))
    setBox(Number(was('box')) || 0)
  })
  if (list.error && !list.data) return <Failed error={list.error} again={() => void list.refetch()} />
  if (!list.data) return <Loading what={sentences.loading} />
  return (
    <div className="h-full overflow-y-auto bg-sand-0 px-[34px] pt-5 pb-10 max-[700px]:px-4">
      <div className="mx-auto max-w-3xl">
        <div className="mb-1 flex items-center justify-between gap-4">
          <Heading>{sentences.activity}</Heading>
          <Button quiet disabled={!groups.some((g) => g.unheard)} onClick={allRead}>
            {sentences.allRead}
          </Button>
        </div>
        <p className="mb-3 text-ink-500">{sentences.whatConcernsYou}</p>
        {boxes.length > 1 && (
          <RadioGroup
            label={sentences.whichBox}
            look="plain"
            value={box}
            options={[{ id: 0, name: sentences.allBoxes }, ...boxes.map((b) => ({ id: b.id, name: b.name }))]}
            onChange={setBox}
          />
        )}
        {!groups.length && <Empty title={sentences.nothingYet}>{sentences.whatWillBeHere}</Empty>}
        <List label={sentences.activity} empty={!groups.length} className="mt-3">
          {groups.map((g) => (
            <Row
              key={keyOf(g)}
              id={'group-' + keyOf(g)}
              testid="concern"
              title={g.subject || sentences.noSubject}
              current={g === current}
              className="px-3 py-2.5"
              onChoose={() => choose(g)}
              onOpen={() => open(g)}
            >
              <Group group={g} box={boxes.find((b) => b.id === g.box)} open={() => open(g)} />
            </Row>
          ))}
        </List>
        <Earlier list={list}>{sentences.earlier}</Earlier>
      </div>
    </div>
  )
}

const keyOf = (g: GroupView) => `${g.box}-${g.conversation}`

/** The groups of several pages: what is of one conversation stands together, where the newest of it is. */
function together(groups: GroupView[]) {
  const all = new Map<string, GroupView>()
  for (const g of groups) {
    const has = all.get(keyOf(g))
    all.set(keyOf(g), has ? { ...has, unheard: has.unheard + g.unheard, more: has.more + g.lines.length + g.more } : g)
  }
  return [...all.values()]
}

function Group({ group: g, box, open }: { group: GroupView; box?: BoxView; open: () => void }) {
  return (
    <>
      <div className="flex items-baseline gap-2">
        <TextButton className="min-w-0 truncate" onClick={open}>
          {g.subject || sentences.noSubject}
        </TextButton>
        {box && <Chip>{box.name}</Chip>}
        {g.unheard > 0 && (
          <span className="ml-auto shrink-0 text-[12px] font-semibold text-coral-600" data-testid="unheard">
            ◆ {sentences.new(g.unheard)}
          </span>
        )}
      </div>
      <ul className="mt-0.5 text-[13px]">
        {g.lines.map((l) => (
          <Line key={l.entry} line={l} />
        ))}
      </ul>
      {g.more > 0 && <p className="text-[12px] text-ink-500">{sentences.more(g.more)}</p>}
    </>
  )
}

const Line = ({ line: l }: { line: LineView }) => (
  <li className={`flex gap-3 py-px ${l.heard ? 'text-ink-500' : ''}`}>
    <span className="min-w-0 flex-1 break-words">
      <b className={l.called ? 'text-plum-600' : 'font-semibold'}>
        {actors[l.actor] ?? (l.who.split(' ')[0] || sentences.somebodyWhoLeft)}
      </b>{' '}
      {saying(l)}
    </span>
    <span className="shrink-0 text-[12px] text-ink-500">{long(l.at)}</span>
  </li>
)

/** What somebody did, where the conversation is named above it. */
function saying(l: LineView) {
  if (l.kind === 'comment')
    return l.text ? `${l.called ? sentences.callsYou : sentences.says} “${l.text}”` : sentences.deletedComment
  if (l.kind === 'give') return l.called ? sentences.givesItToYou : l.text
  return verbs[l.kind] ?? l.kind
}
