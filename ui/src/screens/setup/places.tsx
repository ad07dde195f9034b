import { useEffect, useState } from 'react'
import { mine, newKey, put, told } from '../../api/client'
import type { SitePut, SiteView } from '../../api/desk'
import { refresh, useSites } from '../../api/queries'
import { plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { SavedField } from '../../kit/saved'
import { Adding } from './adding'
import { Part } from './part'
import { sentences } from './sentences'

/** The places something can wait for. */
export function Places() {
  const { data } = useSites()
  const { act, say } = useDesk()
  const [asking, setAsking] = useState(0)
  useEffect(() => refresh(['labels']), []) // what waits for them
  const store = async (id: number, name: string) => {
    try {
      const done = await put<SitePut>('/places', { id, name }, mine(newKey()))
      if (done.text) say({ text: done.text, undo: done.entry > 0 })
      refresh(['labels'])
      return undefined
    } catch (e) {
      return told(e)
    }
  }
  const drop = (s: SiteView) => {
    if (s.waiting && asking !== s.id) return setAsking(s.id)
    setAsking(0)
    void act(`/places/${s.id}/drop`)
  }
  return (
    <Part id="places" name={sentences.places} about={sentences.somethingCanBeSnoozed}>
      <ul className="max-w-xl">
        {data?.sites.map((s) => (
          <li
            key={s.id}
            className="flex flex-wrap items-center gap-2 border-b border-sand-200 py-1.5"
            data-place={s.name}
          >
            <SavedField
              id={'place-' + s.id}
              label={sentences.nameOfThePlace}
              hideLabel
              small
              value={s.name}
              maxLength={60}
              onSave={(text) => store(s.id, text)}
              className="min-w-0 flex-1"
            />
            <span className="text-[12px] text-ink-500">
              {s.waiting > 0 && plural(s.waiting, sentences.conversationWaits, sentences.conversationsWait)}
            </span>
            <TextButton small onClick={() => drop(s)}>
              {asking === s.id
                ? sentences.deleteItAndBring(plural(s.waiting, sentences.conversation))
                : sentences.delete}
            </TextButton>
          </li>
        ))}
      </ul>
      <Adding id="place-name" label={sentences.oneMorePlace} maxLength={60} add={(name) => store(0, name)} />
    </Part>
  )
}
