import { useState } from 'react'
import { get, keyed, post, put, told } from '../../api/client'
import type { TemplateView } from '../../api/desk'
import type { Template } from '../../api/gen/writing'
import { client, useTemplates } from '../../api/queries'
import { Keeps, useKept } from '../../frame/kept'
import { Button, TextButton } from '../../kit/button'
import { Combo } from '../../kit/combo'
import { sentences } from './sentences.writer'

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
  const [wrong, setWrong] = useState('')
  const kept = useKept()
  const [keyOf] = useState(keyed)
  const wanted = words.toLowerCase().split(/\s+/).filter(Boolean)
  const found = data.filter((t) => wanted.every((w) => (t.name + ' ' + t.text).toLowerCase().includes(w)))
  const again = () => void client.invalidateQueries({ queryKey: ['templates'] })
  const use = (t: TemplateView) =>
    get<Template>(`/drafts/${draft}/template/${t.id}`)
      .then(onUse)
      .catch((e: unknown) => setWrong(told(e)))
  const keep = () => {
    const template = { id: 0, name: words, subject, text }
    return put('/templates', template, keyOf(template))
      .then(() => {
        setWords('')
        kept.forget('template')
        again()
      })
      .catch((e: unknown) => setWrong(told(e)))
  }
  const drop = (t: TemplateView) =>
    void post(`/templates/${t.id}/drop`)
      .then(again)
      .catch((e: unknown) => setWrong(told(e)))
  return (
    // eslint-disable-next-line jsx-a11y/no-static-element-interactions -- Escape of the field in it
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
      <Keeps name="template" what={sentences.aTemplate}>
        <Combo
          id="template"
          label={sentences.template}
          listLabel={sentences.templates}
          autoFocus
          text={words}
          offers={found}
          keyOf={(t) => t.id}
          placeholder={data.length ? sentences.findOneByIts : sentences.aNameToSave}
          maxLength={100}
          wrong={wrong}
          aside={
            <Button quiet disabled={!words.trim() || !text.trim()} onClick={() => void keep()}>
              {sentences.saveThisTextUnder}
            </Button>
          }
          onText={(t) => {
            setWords(t)
            setWrong('')
          }}
          onTake={use}
          onEnter={(t) => (t ? use(t) : keep())}
          below={(t) => (
            <p className="mt-0.5 text-[12px] text-ink-500">
              {sentences.blanksAreFilledWhen(blanks)}
              {t && (
                <TextButton tone="faint" className="ml-3" onClick={() => drop(t)}>
                  {sentences.delete(t.name)}
                </TextButton>
              )}
            </p>
          )}
        >
          {(t) => (
            <>
              <b className="shrink-0">{t.name}</b>
              <span className="min-w-0 flex-1 truncate text-ink-500">{t.text}</span>
            </>
          )}
        </Combo>
      </Keeps>
    </div>
  )
}
