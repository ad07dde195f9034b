import { useState } from 'react'
import { Tray } from '../../kit/tray'
import { post, EbbeError } from '../../api/client'
import type { LabelView } from '../../api/desk'
import { client, useLabels } from '../../api/queries'
import { slipOf } from '../../api/slips'
import { Button } from '../../kit/button'
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
  const [at, setAt] = useState(0)
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
  const offers: (LabelView | null)[] = [...found, ...(words && !exact ? [null] : [])]
  const chosen = Math.min(at, Math.max(0, offers.length - 1))
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
    setAt(0)
  }
  const take = async (offer: LabelView | null | undefined) => {
    if (offer) return toggle(offer.id)
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
      <div className="flex items-end gap-3">
        <div className="w-full max-w-md">
          <label htmlFor="label" className="mb-1 block text-[11.5px] font-[650] text-ink-500">
            Labels. A new name creates one; “loans / leg two” nests it under “loans”.
          </label>
          <input
            id="label"
            autoFocus
            autoComplete="off"
            spellCheck={false}
            value={text}
            placeholder="loans"
            role="combobox"
            aria-expanded
            aria-controls="label-list"
            aria-activedescendant={offers.length ? 'label-offer-' + chosen : undefined}
            aria-invalid={!!wrong}
            onChange={(e) => {
              setText(e.target.value)
              setAt(0)
              setWrong('')
            }}
            onKeyDown={(e) => {
              if (e.key === 'ArrowDown' || (e.key === 'ArrowRight' && !text))
                setAt(Math.min(chosen + 1, offers.length - 1))
              else if (e.key === 'ArrowUp' || (e.key === 'ArrowLeft' && !text)) setAt(Math.max(chosen - 1, 0))
              else if (e.key === ' ' && !text && offers[chosen]) void take(offers[chosen])
              else if (e.key === 'Enter') {
                if (words) void take(offers[chosen])
                else accept()
              } else return
              e.preventDefault()
              e.stopPropagation()
            }}
            className="w-full rounded-[9px] border-[1.5px] border-fill bg-sand-0 px-[11px] py-2 text-[14px] outline-none focus:ring-2 focus:ring-tide-200"
          />
        </div>
        <Button onClick={accept}>{changed ? 'Label' : 'Close'}</Button>
        <p className="pb-2 text-[12px] text-ink-500 max-[700px]:hidden">
          Enter picks the highlighted label. Enter on an empty field applies.
        </p>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] text-coral-600">
          {wrong}
        </p>
      )}
      <ul
        id="label-list"
        role="listbox"
        aria-label="Labels"
        aria-multiselectable
        className="mt-2 flex max-h-36 flex-wrap gap-1.5 overflow-y-auto"
      >
        {offers.map((l, i) => (
          <li
            key={l?.id ?? 'new'}
            id={'label-offer-' + i}
            role="option"
            aria-selected={!!l && on(l.id)}
            onClick={() => void take(l)}
            className={`flex cursor-pointer items-center gap-1.5 rounded-[7px] border px-2 py-1 text-[12.5px] ${l && on(l.id) ? 'border-fill bg-tide-100 font-semibold text-tide-800' : 'border-sand-300 bg-sand-0'} ${i === chosen ? 'ring-2 ring-tide-200' : ''}`}
          >
            {l ? (
              <>
                <LabelMark color={l.color} mark={l.mark} />
                {l.path}
              </>
            ) : (
              <>Make “{text.trim()}”</>
            )}
          </li>
        ))}
        {offers.length === 0 && <li className="text-ink-500">There are no labels yet. Type a name.</li>}
      </ul>
    </Tray>
  )
}
