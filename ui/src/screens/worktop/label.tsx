import { useState } from 'react'
import { EbbeError, post } from '../../api/client'
import type { LabelView } from '../../api/desk'
import { client, useLabels } from '../../api/queries'
import { slipOf } from '../../api/slips'
import { Button } from '../../kit/button'
import { Combo } from '../../kit/combo'
import { LabelMark } from '../../kit/label'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences'

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
      setWrong(e instanceof EbbeError ? e.message : sentences.theLabelCouldNot)
    }
  }
  const changed = add.length + remove.length > 0
  const accept = () => (changed ? onLabel(add, remove) : onClose())
  return (
    <Tray label={sentences.label} testid="label-tray" onClose={onClose}>
      <Combo
        id="label"
        label={sentences.labelsANewName}
        listLabel={sentences.labels}
        layout="wrapped"
        autoFocus
        placeholder={sentences.loans}
        text={text}
        offers={offers}
        keyOf={(l) => (l === 'new' ? 'new' : l.id)}
        taken={(l) => l !== 'new' && on(l.id)}
        wrong={wrong}
        aside={
          <>
            <Button onClick={accept}>{changed ? sentences.label : sentences.close}</Button>
            <p className="pb-2 text-[12px] text-ink-500 max-[700px]:hidden">{sentences.enterPicksTheHighlighted}</p>
          </>
        }
        none={<p className="text-ink-500">{sentences.thereAreNoLabels}</p>}
        onText={(t) => {
          setText(t)
          setWrong('')
        }}
        onTake={take}
        onEnter={(l) => (words ? l && take(l) : accept())}
      >
        {(l) =>
          l === 'new' ? (
            <>{sentences.create(text.trim())}</>
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
