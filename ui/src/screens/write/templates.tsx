import { useState } from 'react'
import { get, post, put, told } from '../../api/client'
import type { TemplateView } from '../../api/desk'
import type { Template } from '../../api/gen/writing'
import { client, useTemplates } from '../../api/queries'
import { Button } from '../../kit/button'

interface Props {
  draft: number
  subject: string
  text: string
  onUse: (t: Template) => void
  onClose: () => void
}

const blanks = '[name] [subject] [today] [tomorrow] [in a week] [free times]'

/** Texts that are used again: found by typing, filled in, or kept from what is written. */
export function Templates({ draft, subject, text, onUse, onClose }: Props) {
  const { data = [] } = useTemplates()
  const [words, setWords] = useState('')
  const [at, setAt] = useState(0)
  const [wrong, setWrong] = useState('')
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const found = data.filter((t) => wanted.every((w) => (t.name + ' ' + t.text).toLowerCase().includes(w)))
  const chosen = Math.min(at, Math.max(0, found.length - 1))
  const again = () => void client.invalidateQueries({ queryKey: ['templates'] })
  const use = (t?: TemplateView) => {
    if (t)
      get<Template>(`/drafts/${draft}/template/${t.id}`)
        .then(onUse)
        .catch((e: unknown) => setWrong(told(e)))
  }
  const keep = () =>
    put('/templates', { id: 0, name: words, subject, text })
      .then(() => {
        setWords('')
        again()
      })
      .catch((e: unknown) => setWrong(told(e)))
  const drop = (t: TemplateView) =>
    void post(`/templates/${t.id}/drop`)
      .then(again)
      .catch((e: unknown) => setWrong(told(e)))
  return (
    <div
      className="border-t border-sand-200 pt-2"
      data-testid="templates"
      onKeyDown={(e) => {
        if (e.key === 'Escape') {
          e.preventDefault()
          e.stopPropagation()
          onClose()
        }
      }}
    >
      <div className="flex items-center gap-2">
        <label htmlFor="template" className="text-[11.5px] font-[650] text-ink-500">
          Template
        </label>
        <input
          id="template"
          autoFocus
          autoComplete="off"
          role="combobox"
          aria-expanded={found.length > 0}
          aria-controls="template-list"
          aria-activedescendant={found[chosen] && 'template-' + found[chosen].id}
          value={words}
          placeholder={data.length ? 'find one by its words' : 'a name, to keep this text under'}
          maxLength={100}
          onChange={(e) => {
            setWords(e.target.value)
            setAt(0)
            setWrong('')
          }}
          onKeyDown={(e) => {
            if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
              e.preventDefault()
              setAt(Math.max(0, Math.min(found.length - 1, chosen + (e.key === 'ArrowDown' ? 1 : -1))))
            }
            if (e.key === 'Enter' && !e.ctrlKey && !e.metaKey) {
              e.preventDefault()
              if (found.length) use(found[chosen])
              else void keep()
            }
          }}
          className="min-w-0 flex-1 rounded-[9px] border border-sand-300 bg-sand-0 px-2.5 py-1 text-[13px] focus:border-fill focus:outline-1 focus:outline-fill"
        />
        <Button quiet className="px-2.5 py-1" disabled={!words.trim() || !text.trim()} onClick={() => void keep()}>
          Keep this text under that name
        </Button>
      </div>
      {wrong && (
        <p role="alert" className="mt-1 text-[12.5px] text-coral-600">
          {wrong}
        </p>
      )}
      <ul id="template-list" role="listbox" aria-label="Templates" className="mt-1 max-h-24 overflow-y-auto">
        {found.map((t, i) => (
          <li
            key={t.id}
            id={'template-' + t.id}
            role="option"
            aria-selected={i === chosen}
            onClick={() => use(t)}
            className={`flex cursor-pointer items-baseline gap-2 rounded-[7px] px-2 py-0.5 text-[12.5px] ${i === chosen ? 'bg-tide-100' : 'hover:bg-sand-100'}`}
          >
            <b className="shrink-0">{t.name}</b>
            <span className="min-w-0 flex-1 truncate text-ink-500">{t.text}</span>
          </li>
        ))}
      </ul>
      <p className="mt-0.5 text-[12px] text-ink-500">
        Blanks are filled when one is used: {blanks}
        {found[chosen] && (
          <button type="button" className="ml-3 hover:underline" onClick={() => drop(found[chosen])}>
            Throw “{found[chosen].name}” away
          </button>
        )}
      </p>
    </div>
  )
}
