import { useState } from 'react'
import { Link } from 'react-router'
import { keyed, post, put, told } from '../../api/client'
import type { NewStream, StreamView } from '../../api/desk'
import { refresh } from '../../api/queries'
import { plural } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, TextButton } from '../../kit/button'
import { Checkbox } from '../../kit/checkbox'
import { RadioGroup } from '../../kit/choose'
import { Field } from '../../kit/field'
import { RoundsAt } from './rounds'
import { sentences } from './sentences'

/** A stream of the user's own that is being made. */
export const fresh: NewStream = { id: '', name: '', along: 'people', at: { days: 0, minute: 540 }, together: false }

/** What is known of a stream as it would be changed. */
export const asChanged = (s: StreamView): NewStream => ({
  id: s.id,
  name: s.name,
  along: s.along ?? 'people',
  at: s.at.days ? s.at : fresh.at,
  together: s.together,
})

const FRIDAY = 1 << 5

interface FormProps {
  stream: NewStream
  onEdit: (stream: NewStream) => void
  onDone: (id?: string) => void
}

/** Makes a stream, or changes or deletes one; onDone hears which is to be seen, '' where that is gone. */
export function StreamForm({ stream, onEdit, onDone }: FormProps) {
  const { say } = useDesk()
  const { name, along, at, together } = stream
  const [wrong, setWrong] = useState('')
  const [keyOf] = useState(keyed)
  const send = async (what: () => Promise<string>, text: string) => {
    try {
      const id = await what()
      refresh(['delivery', 'mail'])
      say({ text })
      onDone(id)
    } catch (e) {
      setWrong(told(e))
    }
  }
  return (
    <form
      aria-label={sentences.aStreamOfYourOwn}
      className="mb-3 flex flex-wrap items-end gap-x-4 gap-y-2 rounded-[10px] border border-dashed border-tide-400 bg-tide-50 px-3.5 py-2.5"
      onSubmit={(e) => {
        e.preventDefault()
        void send(
          async () => (await put<{ id: string }>('/delivery/streams', stream, keyOf(stream))).id,
          sentences.streamSaved(name),
        )
      }}
    >
      <Field
        id="stream-name"
        label={sentences.nameOfTheStream}
        value={name}
        wrong={wrong}
        autoFocus
        maxLength={60}
        autoComplete="off"
        placeholder={sentences.choir}
        onChange={(e) => {
          onEdit({ ...stream, name: e.target.value })
          setWrong('')
        }}
      />
      <div>
        <p className="mb-1 text-[12px] text-ink-500">{sentences.untilItHasDays}</p>
        <RadioGroup
          label={sentences.untilItHasDays}
          value={at.days ? '' : along}
          options={[
            { id: 'people', name: sentences.withPeople },
            { id: 'machines', name: sentences.withNewsletters },
            { id: '', name: sentences.atItsOwnTimes },
          ]}
          onChange={(to) =>
            onEdit(
              to
                ? { ...stream, along: to, at: { ...at, days: 0 } }
                : { ...stream, at: { ...at, days: at.days || FRIDAY } },
            )
          }
        />
      </div>
      {at.days > 0 && <RoundsAt at={at} onEdit={(at) => onEdit({ ...stream, at })} />}
      <Checkbox checked={together} onChange={(together) => onEdit({ ...stream, together })} className="w-full">
        {sentences.togetherAsOne}
      </Checkbox>
      <Button type="submit" disabled={!name.trim()}>
        {sentences.save}
      </Button>
      <Button quiet onClick={() => onDone()}>
        {sentences.cancel}
      </Button>
      {stream.id && (
        <Button
          quiet
          onClick={() =>
            void send(async () => {
              await post(`/delivery/streams/${stream.id}/drop`)
              return ''
            }, sentences.streamDeleted(stream.name))
          }
        >
          {sentences.deleteIt}
        </Button>
      )}
      <p className="w-full text-ink-500">{sentences.howMailGetsThere}</p>
    </form>
  )
}

/** Whether the mail of a stream lies in the inbox as one slip. */
export function Together({ stream }: { stream: StreamView }) {
  const { say } = useDesk()
  return (
    <Checkbox
      checked={stream.together}
      className="mb-2"
      onChange={(together) =>
        void put('/delivery/streams', { ...asChanged(stream), at: stream.at, together })
          .then(() => {
            refresh(['delivery', 'mail'])
            say({ text: together ? sentences.comesTogether(stream.name) : sentences.comesOneByOne(stream.name) })
          })
          .catch((e: unknown) => say({ text: told(e), wrong: true }))
      }
    >
      {sentences.togetherAsOne}
    </Checkbox>
  )
}

/** How mail gets into a stream of the user's own. */
export const OwnStream = ({ stream, onChange }: { stream: StreamView; onChange: () => void }) => (
  <p className="mb-3 flex flex-wrap items-baseline gap-x-3 text-ink-500" data-testid="own-stream">
    <span>
      {stream.rules + stream.lessons === 0
        ? sentences.nothingPutsMail(stream.name)
        : sentences.putThereBy(
            stream.name,
            [
              stream.rules && plural(stream.rules, sentences.rule),
              stream.lessons && plural(stream.lessons, sentences.lesson),
            ]
              .filter(Boolean)
              .join(sentences.and),
          )}
    </span>
    <Link
      className="text-accent hover:underline"
      to={'/rules/new?words=' + encodeURIComponent(sentences.ruleInto(stream.name))}
    >
      {sentences.makeARule}
    </Link>
    {stream.lessons > 0 && (
      <Link className="text-accent hover:underline" to="/setup/learned">
        {sentences.whatWasTaught}
      </Link>
    )}
    <TextButton onClick={onChange}>{sentences.changeIt}</TextButton>
  </p>
)
