import { ShieldCheckIcon, WarningIcon } from '@phosphor-icons/react'
import { useQuery } from '@tanstack/react-query'
import { useState } from 'react'
import { api } from '../../api/base'
import { get, told } from '../../api/client'
import type { MessageView, SourceView } from '../../api/desk'
import type { Address } from '../../api/gen/mail'
import { size } from '../../api/times'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { cx } from '../../kit/cx'
import { sentences } from './sentences.trays'

const source = (message: number) => ({
  queryKey: ['source', message],
  queryFn: () => get<SourceView>(`/messages/${message}/source`),
  staleTime: Infinity,
})

/** Copies the link that finds a message wherever it is; where the browser does not let that be, it is said. */
function useCopyLink() {
  const { say } = useDesk()
  return async (message: number) => {
    try {
      const { link } = await get<SourceView>(`/messages/${message}/source`)
      if (!link) return say({ text: sentences.noLink, wrong: true })
      await navigator.clipboard.writeText(link).then(
        () => say({ text: sentences.linkCopied(link) }),
        () => say({ text: sentences.linkIs(link), wrong: true }),
      )
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
  }
}

const pageOf = (conversation: number) => `${api}/conversations/${conversation}/page`
const textOf = (conversation: number) => `${api}/conversations/${conversation}/text`

/** What can be done to give a conversation out of hand, by name. */
export function HandOut({ conversation, message }: { conversation: number; message: number }) {
  const copy = useCopyLink()
  useCommands([
    { id: 'print', run: () => window.open(pageOf(conversation), '_blank', 'noopener') },
    { id: 'as-text', run: () => window.location.assign(textOf(conversation)) },
    { id: 'copy-link', run: () => void copy(message) },
  ])
  return null
}

/** What the header of a message says of how far it can be trusted, all of it, and the message itself in other forms. */
function Source({ message, conversation }: { message: number; conversation: number }) {
  const { data } = useQuery(source(message))
  const [all, setAll] = useState(false)
  const copy = useCopyLink()
  const link = 'text-accent underline'
  return (
    <div className="mb-3 border-t border-sand-200 pt-2 text-[12.5px]" data-testid="source">
      <ul aria-label={sentences.howItCame} className="mb-1.5">
        {data?.said.map((s) => (
          <li key={s.text} className={cx('flex gap-1.5', s.doubt ? 'text-amber-600' : 'text-ink-700')}>
            {s.doubt && <WarningIcon size={14} className="mt-[3px] shrink-0" aria-label={sentences.doubt} />}
            {s.sure && <ShieldCheckIcon size={14} className="mt-[3px] shrink-0 text-kelp-600" aria-hidden />}
            {s.text}
          </li>
        ))}
      </ul>
      <p className="flex flex-wrap gap-x-3 gap-y-0.5">
        <a className={link} href={`${api}/messages/${message}/original`}>
          {sentences.asItCame}
        </a>
        <a className={link} href={pageOf(conversation)} target="_blank" rel="noopener">
          {sentences.toPrint}
        </a>
        <a className={link} href={textOf(conversation)}>
          {sentences.asText}
        </a>
        {data?.link && <TextButton onClick={() => void copy(message)}>{sentences.copyLink}</TextButton>}
        <TextButton aria-expanded={all} onClick={() => setAll(!all)}>
          {sentences.allOfItsHeader}
        </TextButton>
      </p>
      {all && data && (
        <>
          <pre
            className="mt-2 rounded-[8px] bg-sand-50 p-3 font-mono text-[11.5px] break-all whitespace-pre-wrap"
            data-testid="header"
          >
            {data.header}
          </pre>
          {!!data.more && <p className="mt-1 text-ink-500">{sentences.moreHeader(size(data.more))}</p>}
        </>
      )}
    </div>
  )
}

/** Who a message is from and to, how it came, and the message itself in other forms. */
export function Details({
  m,
  conversation,
  part,
}: {
  m: MessageView
  conversation: number
  part?: (id: number, on: boolean) => void
}) {
  const line = (name: string, list: Address[]) =>
    list.length > 0 && (
      <>
        <dt className="text-ink-500">{name}</dt>
        <dd className="min-w-0 break-words">
          {list.map((a) => (a.name ? `${a.name} <${a.address}>` : a.address)).join(', ')}
        </dd>
      </>
    )
  return (
    <>
      <dl className="mb-3 grid grid-cols-[48px_1fr] gap-x-2 text-[12.5px]">
        {line('From', [m.from])}
        {line('To', m.to ?? [])}
        {line('Copy', m.cc ?? [])}
        {line('Hidden', m.bcc ?? [])}
        {part && (
          <>
            <dt className="text-ink-500">{sentences.part}</dt>
            <dd className="flex flex-wrap gap-x-3">
              <TextButton onClick={() => part(m.id, false)}>{sentences.thisMessageAlone}</TextButton>
              <TextButton onClick={() => part(m.id, true)}>{sentences.allFromHereOn}</TextButton>
            </dd>
          </>
        )}
      </dl>
      <Source message={m.id} conversation={conversation} />
    </>
  )
}
