import { LineField, toNew } from '../kit/line'
import { AboveDock, Tray } from '../kit/tray'
import { useDesk } from './desk'

/** A follow-up without mail, written down in one line on any screen. */
export function WriteDown({ close }: { close: () => void }) {
  const { act } = useDesk()
  return (
    <AboveDock>
      <Tray label="Write down" testid="writedown" onClose={close}>
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
      </Tray>
    </AboveDock>
  )
}
