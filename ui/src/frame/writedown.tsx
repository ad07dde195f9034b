import { LineField, toNew } from '../kit/line'
import { onEscape, trayClass } from '../screens/worktop/write'
import { useDesk } from './desk'

/** A follow-up without mail, written down in one line on any screen. */
export function WriteDown({ close }: { close: () => void }) {
  const { act } = useDesk()
  return (
    <div
      className="absolute inset-x-0 bottom-0 z-20 border-t border-sand-300 bg-sand-0 shadow-[0_-4px_14px_#13272c14]"
      role="group"
      aria-label="Write down"
      data-testid="writedown"
      onKeyDown={onEscape(close)}
    >
      <div className={trayClass}>
        <LineField
          id="writedown-line"
          label="What has to be done? Parts between slashes; Tab completes, Enter writes it down"
          placeholder="ring the piano mover / fri 10 / opening / urgent / remind 1 day before"
          autoFocus
          onCancel={close}
          onAccept={async (w) => {
            if (await act('/follow-ups/new', toNew(w.followUp, false))) close()
          }}
        />
      </div>
    </div>
  )
}
