import { useState } from 'react'
import { Tray } from '../../kit/tray'
import { post, EbbeError } from '../../api/client'
import type { LabelView } from '../../api/desk'
import { client, useLabels } from '../../api/queries'
import { slipOf } from '../../api/slips'
import { Button } from '../../kit/button'
import { Combo } from '../../kit/combo'
import { LabelMark } from '../../kit/label'

interface Props {
  ids: number[]
  onLabel: (add: number[], remove: number[]) => void
  onClose: () => void
}

/** Words first: the labels that have them, or a new one made of them. */
export function LabelTray({ ids, onLabel, onClose }: Props) {
  const { data: labels } = useLabels()
  const [text, setText] = useState('')
  const [add, setAdd] = useState<number[]>([])
  const [remove, setRemove] = useState<number[]>([])
  const [wrong, setWrong] = useState('')
  if (!labels) return null
  const words = text.trim().toLowerCase()
  const begins = (l: LabelView) =>
    l.path
      .toLowerCase()
      .split(/[\s/]+/)
      .some((w) => w.startsWith(words))
      ? 0
      : 1
  const found = labels.filter((l) => l.path.toLowerCase().includes(words)).sort((a, b) => begins(a) - begins(b))
  const exact = labels.some((l) => l.path.toLowerCase().replace(/\s*\/\s*/g, '/') === words.replace(/\s*\/\s*/g, '/'))
  const offers: (LabelView | 'new')[] = [...found, ...(words && !exact ? ['new' as const] : [])]
  const on = (id: number) =>
    add.includes(id) || (!remove.includes(id) && ids.length > 0 && ids.every((i) => slipOf(i)?.labels.includes(id)))
  const toggle = (id: number) => {
    const was = ids.some((i) => slipOf(i)?.labels.includes(id))
    if (on(id)) {
      setAdd(add.filter((a) => a !== id))
      if (was) setRemove([...remove, id])
    } else {
      setRemove(remove.filter((r) => r !== id))
      setAdd([...add, id])
    }
    setText('')
  }
  const take = async (offer: LabelView | 'new') => {
    if (offer !== 'new') return toggle(offer.id)
    try {
      const made = await post<LabelView>('/labels', { path: text })
      await client.invalidateQueries({ queryKey: ['labels'] })
      setAdd((a) => [...a, made.id])
      setText('')
      setWrong('')
    } catch (e) {
      setWrong(e instanceof EbbeError ? e.message : 'The label could not be made.')
    }
  }
  const changed = add.length + remove.length > 0
  const accept = () => (changed ? onLabel(add, remove) : onClose())
  return (
    <Tray label="Label" testid="label-tray" onClose={onClose}>
      <Combo
        id="label"
        label="Labels. A new name creates one; “loans / leg two” nests it under “loans”."
        listLabel="Labels"
        layout="wrapped"
        autoFocus
        placeholder="loans"
        text={text}
        offers={offers}
        keyOf={(l) => (l === 'new' ? 'new' : l.id)}
        taken={(l) => l !== 'new' && on(l.id)}
        wrong={wrong}
        aside={
          <>
            <Button onClick={accept}>{changed ? 'Label' : 'Close'}</Button>
            <p className="pb-2 text-[12px] text-ink-500 max-[700px]:hidden">
              Enter picks the highlighted label. Enter on an empty field applies.
            </p>
          </>
        }
        none={<p className="text-ink-500">There are no labels yet. Type a name.</p>}
        onText={(t) => {
          setText(t)
          setWrong('')
        }}
        onTake={take}
        onEnter={(l) => (words ? l && take(l) : accept())}
      >
        {(l) =>
          l === 'new' ? (
            <>Create “{text.trim()}”</>
          ) : (
            <>
              <LabelMark color={l.color} mark={l.mark} />
              {l.path}
            </>
          )
        }
      </Combo>
    </Tray>
  )
}
