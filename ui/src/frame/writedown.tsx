import { LineField, toNew } from '../kit/line'
import { AboveDock, Tray } from '../kit/tray'
import { useDesk } from './desk'
import { sentences } from './sentences'

/** A follow-up without mail, written down in one line on any screen. */
export function WriteDown({ close }: { close: () => void }) {
  const { act } = useDesk()
  return (
    <AboveDock>
      <Tray label={sentences.writeDown} testid="writedown" onClose={close}>
        <LineField
          id="writedown-line"
          label={sentences.whatHasToBe}
          placeholder={sentences.ringThePianoMover}
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
