import { useState } from 'react'
import { post } from '../../api/client'
import type { PlanPreview } from '../../api/desk'
import type { Day, Plan } from '../../api/gen/delivery'
import { useTyped } from '../../frame/kept'
import { type PieceAt, type Tool } from './drawing'
import { sentences } from './sentences'

export type Stream = 'people' | 'machines'
export type Chosen = PieceAt & { day: number }

/** A week that is drawn and typed. */
export function useTyping({
  plan,
  stream,
  edit,
}: {
  plan: Plan
  stream: Stream
  texts?: string[]
  edit: (p: Plan) => void
}) {
  const [tool, setTool] = useState<Tool>('open')
  const [block, setBlock] = useState('writing')
  const [chosen, setChosen] = useState<Chosen | null>(null)
  const [typed, setTyped] = useTyped('plan-line', '', sentences.aLineOfThePlan)
  const [wrong, setWrong] = useState('')
  const [open, setOpen] = useState<number | null>(null) // the day whose line is typed
  const days = plan[stream]
  const put = (changed: Record<number, Day>) => edit({ ...plan, [stream]: days.map((d, i) => changed[i] ?? d) })
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
