import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { post, told } from '../../api/client'
import type { PlanPreview } from '../../api/desk'
import type { Day, Plan } from '../../api/gen/delivery'
import { useTyped } from '../../frame/kept'
import { type PieceAt, type Tool } from './drawing'
import { daysOf, withDays } from './planning'
import { sentences } from './sentences'

export type Chosen = PieceAt & { day: number }

/** What a line that is being typed would draw, or why it draws nothing; null while nothing is typed or known. */
function useMeant(plan: Plan, stream: string, line: string) {
  const { data } = useQuery({
    queryKey: ['plan-line', plan, stream, line],
    queryFn: () =>
      post<PlanPreview>('/delivery/preview', { plan, stream, line })
        .then((v) => ({ days: daysOf(v.plan, stream) ?? null, says: v.means, wrong: false }))
        .catch((e: unknown) => ({ days: null, says: told(e), wrong: true })),
    enabled: !!line.trim(),
    gcTime: 10_000,
  })
  return line.trim() ? (data ?? null) : null
}

/** A week that is drawn and typed. */
export function useTyping({
  plan,
  stream,
  edit,
}: {
  plan: Plan
  stream: string
  texts?: string[]
  edit: (p: Plan) => void
}) {
  const [tool, setTool] = useState<Tool>('open')
  const [block, setBlock] = useState('writing')
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [typed, setTyped] = useTyped('plan-line', '', sentences.aLineOfThePlan)
  const [wrong, setWrong] = useState('')
  const [open, setOpen] = useState<number | null>(null) // the day whose line is typed
  const meant = useMeant(plan, stream, typed)
  const days = daysOf(plan, stream) ?? []
  const put = (changed: Record<number, Day>) =>
    edit(
      withDays(
        plan,
        stream,
        days.map((d, i) => changed[i] ?? d),
      ),
    )
  const change = (day: number, d: Day) => put({ [day]: d })
  const read = async (body: object, done: () => void) => {
    try {
      edit((await post<PlanPreview>('/delivery/preview', { plan, stream, ...body })).plan)
      setWrong('')
      done()
    } catch (e) {
      setWrong((e as Error).message)
    }
  }
  return {
    meant,
    tool,
    setTool,
    block,
    setBlock,
    chosen,
    setChosen,
    typed,
    setTyped,
    wrong,
    setWrong,
    open,
    setOpen,
    days,
    put,
    change,
    read,
  }
}
