import { useMemo, useState } from 'react'
import { keyed, put, told } from '../../api/client'
import type { DeliveryView } from '../../api/desk'
import type { Day, Offered, Plan } from '../../api/gen/delivery'
import { refresh, usePreview } from '../../api/queries'
import { useDesk } from '../../frame/desk'
import { useTyped } from '../../frame/kept'
import { sentences } from './sentences'

export const blank = (): Plan => {
  const days = () => Array.from({ length: 7 }, () => ({ open: [], quiet: [], focus: [], rounds: [] }))
  return {
    id: '',
    name: sentences.ordinaryWeek,
    people: days(),
    machines: days(),
    answer: '',
    contact: '',
    away: false,
  }
}

/** The days that a plan draws for a stream; none where one of the user's own goes along with another. */
export const daysOf = (plan: Plan, stream: string): Day[] | undefined =>
  stream === 'people' ? plan.people : stream === 'machines' ? plan.machines : plan.own?.[stream]

/** A plan with other days for a stream; undefined: it goes along with another. */
export const withDays = (plan: Plan, stream: string, days?: Day[]): Plan => {
  if (days && stream === 'people') return { ...plan, people: days }
  if (days && stream === 'machines') return { ...plan, machines: days }
  const own = { ...plan.own }
  if (days) own[stream] = days
  else delete own[stream]
  return { ...plan, own }
}

/** The plans of a week: which one is seen, what was changed of it, and what it would do. */
export function usePlanning({ data }: { data: DeliveryView }) {
  const { say } = useDesk()
  const [chosen, setStream] = useState('people')
  const stream = data.streams.some((s) => s.id === chosen) ? chosen : 'people'
  const [seen, setSeen] = useState(data.on)
  const [draft, setDraft] = useTyped<Plan | null>('plan', null, sentences.changesOfThePlan)
  const [keyOf] = useState(keyed)
  const [offering, setOffering] = useState(false)
  const kept = data.plans.find((p) => p.id === seen) ?? data.plans.find((p) => p.id === data.on) ?? data.plans.at(0)
  const plan = draft ?? kept ?? null
  const empty = useMemo(() => blank(), [])
  const preview = usePreview(plan ?? empty)
  const inForce = !!plan && plan.id === data.on && !draft
  const send = async (what: Promise<unknown>, text: string) => {
    try {
      const v = await what
      refresh(['delivery', 'mail'])
      say({ text })
      return v
    } catch (e) {
      say({ text: told(e), wrong: true })
      return null
    }
  }
  const store = async (use: boolean) => {
    const made = { plan: draft, use }
    const v = (await send(
      put<{ id: string }>('/delivery/plans', made, keyOf(made)),
      use || draft?.id === data.on ? sentences.decidesWhenMailComes(draft?.name) : sentences.thePlanIsSaved,
    )) as { id: string } | null
    if (v) {
      setSeen(v.id)
      setDraft(null)
    }
  }
  const edit = (change: Partial<Plan>) => setDraft({ ...(plan ?? empty), ...change })
  const begin = (o?: Offered) => {
    const { name, people, machines, answer, contact, away } = o ?? blank()
    setOffering(false)
    setDraft({
      id: '',
      name: data.plans.some((p) => p.name === name) ? name + ' 2' : name,
      people,
      machines,
      answer,
      contact,
      away,
    })
  }
  return {
    stream,
    setStream,
    setSeen,
    draft,
    setDraft,
    offering,
    setOffering,
    plan,
    preview,
    inForce,
    send,
    store,
    edit,
    begin,
  }
}
