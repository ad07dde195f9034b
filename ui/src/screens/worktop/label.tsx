import { useState } from 'react'
import { EbbeError, post } from '../../api/client'
import type { LabelView } from '../../api/desk'
import { client, useLabels } from '../../api/queries'
import { slipOf } from '../../api/slips'
import { Button } from '../../kit/button'
import { Combo } from '../../kit/combo'
import { useKeptValue } from '../../kit/keptvalue'
import { LabelMark } from '../../kit/label'
import { Tray } from '../../kit/tray'
import { sentences } from './sentences.trays'

interface Props {
  ids: number[]
  onLabel: (add: number[], remove: number[]) => void
  onClose: () => void
}

/** Words first: the labels that have them, or a new one made of them. */
export function LabelTray({ ids, onLabel, onClose }: Props) {
  const { data: labels } = useLabels()
  const [text, setText] = useState('')
  const [add, setAdd] = useKeptValue<number[]>('label-on', [])
  const [remove, setRemove] = useKeptValue<number[]>('label-off', [])
  const [fresh, setFresh] = useKeptValue<string[]>('label-new', []) // names of labels that are made as they are put on
  const [busy, setBusy] = useState(false)
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
  const name = text.trim()
  const offers: (LabelView | string)[] = [
    ...fresh.filter((path) => path.toLowerCase().includes(words)),
    ...found,
    ...(words && !exact && !fresh.includes(name) ? [name] : []),
  ]
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
  const take = (offer: LabelView | string) => {
    if (typeof offer !== 'string') return toggle(offer.id)
    setFresh(fresh.includes(offer) ? fresh.filter((f) => f !== offer) : [...fresh, offer])
    setText('')
  }
  const changed = add.length + remove.length + fresh.length > 0
  const accept = async () => {
    if (!changed) return onClose()
    if (busy) return
    setBusy(true)
    try {
      const made: number[] = []
      for (const [i, path] of fresh.entries()) {
        const { id } = await post<LabelView>('/labels', { path })
        made.push(id)
        setFresh(fresh.slice(i + 1)) // it is there, whatever becomes of the others
        setAdd([...add, ...made])
      }
      if (made.length) await client.invalidateQueries({ queryKey: ['labels'] })
      onLabel([...add, ...made], remove)
    } catch (e) {
      setWrong(e instanceof EbbeError ? e.message : sentences.theLabelCouldNot)
      setBusy(false)
    }
  }
  /** What was chosen outlasts a reload, and not that it is closed without being put on. */
  const abandon = () => {
    setAdd([])
    setRemove([])
    setFresh([])
    onClose()
  }
  return (
    <Tray label={sentences.label} testid="label-tray" onClose={abandon}>
      <Combo
        id="label"
        label={sentences.labelsANewName}
        listLabel={sentences.labels}
        layout="wrapped"
        autoFocus
        placeholder={sentences.loans}
        text={text}
        offers={offers}
        keyOf={(l) => (typeof l === 'string' ? 'new/' + l : l.id)}
        taken={(l) => (typeof l === 'string' ? fresh.includes(l) : on(l.id))}
        wrong={wrong}
        aside={
          <>
            <Button disabled={busy} onClick={() => void accept()}>
              {changed ? sentences.label : sentences.close}
            </Button>
            <p className="pb-2 text-[12px] text-ink-500 max-[700px]:hidden">{sentences.enterPicksTheHighlighted}</p>
          </>
        }
        none={<p className="text-ink-500">{sentences.thereAreNoLabels}</p>}
        onText={(t) => {
          setText(t)
          setWrong('')
        }}
        onTake={take}
        onEnter={(l) => (words ? l !== undefined && take(l) : accept())}
      >
        {(l) =>
          typeof l === 'string' ? (
            <>{fresh.includes(l) ? l : sentences.create(l)}</>
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
