import { LineField, toNew } from '../kit/line'
import { AboveDock, Tray } from '../kit/tray'
import { useDesk } from './desk'
import { Keeps, useKept } from './kept'
import { sentences } from './sentences'

/** A follow-up without mail, written down in one line on any screen. */
export function WriteDown({ close }: { close: () => void }) {
  const { act } = useDesk()
  const kept = useKept()
  return (
    <AboveDock>
      <Keeps name="write-down" what={sentences.aLineToWriteDown}>
        <Tray label={sentences.writeDown} testid="writedown" onClose={close}>
          <LineField
            id="writedown-line"
            label={sentences.whatHasToBe}
            placeholder={sentences.ringThePianoMover}
            autoFocus
            onCancel={close}
            onAccept={async (w) => {
              if (await act('/follow-ups/new', toNew(w.followUp, false))) {
                kept.forget('write-down')
                close()
              }
            }}
          />
        </Tray>
      </Keeps>
    </AboveDock>
  )
}
