import {
  BedIcon,
  CalendarBlankIcon,
  KeyIcon,
  PackageIcon,
  ReceiptIcon,
  ShoppingBagIcon,
  TrainIcon,
  WarningIcon,
} from '@phosphor-icons/react'
import { type ReactNode, useEffect } from 'react'
import type { FactView } from '../../api/desk'
import { useCommands } from '../../frame/commands'
import { useDesk } from '../../frame/desk'
import { TextButton } from '../../kit/button'
import { Key } from '../../kit/kit'
import type { Tray } from './deciding'
import { sentences } from './sentences.trays'

const icons: Record<FactView['kind'], ReactNode> = {
  parcel: <PackageIcon size={18} aria-hidden />,
  bill: <ReceiptIcon size={18} aria-hidden />,
  journey: <TrainIcon size={18} aria-hidden />,
  booking: <BedIcon size={18} aria-hidden />,
  event: <CalendarBlankIcon size={18} aria-hidden />,
  order: <ShoppingBagIcon size={18} aria-hidden />,
  code: <KeyIcon size={18} aria-hidden />,
}

/** What machines tell in a conversation, on top of it, with what can be done about it. */
export function Facts({ facts, edit }: { facts: FactView[]; edit: (tray: Tray) => void }) {
  const code = facts.find((f) => f.code && f.open)?.code
  return (
    <section aria-label={sentences.whatMachinesTell} data-testid="facts" className="mb-3 grid gap-1.5">
      {facts.map((f, i) => (
        <div
          key={f.message + '.' + i}
          className="flex flex-wrap items-baseline gap-x-3 gap-y-1 rounded-[9px] bg-tide-50 px-3 py-1.5 text-[13px]"
          data-fact={f.kind}
        >
          <span className="shrink-0 translate-y-1 text-accent">{icons[f.kind]}</span>
          <b>{f.say}</b>
          <span className="min-w-0 flex-1 basis-40 break-words text-ink-700">
            {[f.about, f.where].filter(Boolean).join(' · ')}
          </span>
          {f.doubt ? (
            <span className="flex items-baseline gap-1.5 text-amber-600" role="note">
              <WarningIcon size={14} weight="bold" className="shrink-0 translate-y-0.5" aria-hidden />
              {sentences.itContradicts(f.doubt)}
            </span>
          ) : (
            <Offer f={f} edit={edit} />
          )}
        </div>
      ))}
      {code && <Copying code={code} />}
    </section>
  )
}

/** What a fact offers, by the tray in which it is proposed. */
function Offer({ f, edit }: { f: FactView; edit: (tray: Tray) => void }) {
  const desk = useDesk()
  if (!f.open) return null
  const offered: [Tray, string] | null =
    f.kind === 'bill'
      ? ['follow-up', sentences.followUpForIt]
      : f.arrives
        ? ['snooze', sentences.snoozeUntilIt]
        : f.kind === 'journey' || f.kind === 'booking' || f.kind === 'event'
          ? ['calendar', sentences.putIntoTheWeek]
          : null
  if (f.code)
    return (
      <TextButton onClick={() => copy(f.code!, desk.say)}>
        {sentences.copyIt} <Key>{sentences.copyKey}</Key>
      </TextButton>
    )
  return offered && <TextButton onClick={() => edit(offered[0])}>{offered[1]}</TextButton>
}

function copy(code: string, say: ReturnType<typeof useDesk>['say']) {
  navigator.clipboard.writeText(code).then(
    () => say({ text: sentences.copied(code) }),
    () => say({ text: sentences.notCopied(code), wrong: true }),
  )
}

/** The key that copies copies the code, where nothing else is chosen. */
function Copying({ code }: { code: string }) {
  const { say } = useDesk()
  useCommands([{ id: 'copy-code', name: sentences.copyTheCode, run: () => copy(code, say) }])
  useEffect(() => {
    const copied = (e: ClipboardEvent) => {
      const typing = e.target instanceof Element && e.target.closest('input, textarea, [contenteditable]')
      if (typing || !document.getSelection()?.isCollapsed) return
      e.clipboardData?.setData('text/plain', code)
      e.preventDefault()
      say({ text: sentences.copied(code) })
    }
    // What is pressed in the frame of a message is told to the page, and copies nothing there by itself.
    const inFrame = (e: KeyboardEvent) => {
      if (e.isTrusted || !(e.ctrlKey || e.metaKey) || e.key !== 'c') return
      const frames = [...document.querySelectorAll<HTMLIFrameElement>('[data-testid=frame]')]
      if (frames.every((f) => f.contentDocument?.getSelection()?.isCollapsed !== false)) copy(code, say)
    }
    document.addEventListener('copy', copied)
    window.addEventListener('keydown', inFrame)
    return () => {
      document.removeEventListener('copy', copied)
      window.removeEventListener('keydown', inFrame)
    }
  }, [code, say])
  return null
}
