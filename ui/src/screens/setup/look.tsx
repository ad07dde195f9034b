import type { Settings } from '../../api/desk'
import { useChoice } from '../../frame/choosing'
import { setClose, useClose } from '../../frame/density'
import { setLetters, sizes, useLetters } from '../../frame/letters'
import { RadioGroup } from '../../kit/choose'
import { Choosing, Part } from './part'
import { sentences } from './sentences'

/** The theme, and what is kept for this browser: how close lines stand, and how large messages are. */
export function Look({ settings }: { settings: Settings }) {
  const choice = useChoice()
  const close = useClose()
  const letters = useLetters()
  return (
    <Part id="look" name={sentences.look}>
      <Choosing name={sentences.theme}>
        <RadioGroup
          label={sentences.theme}
          value={settings.theme}
          options={[
            { id: '', name: sentences.asThisMachine },
            { id: 'light', name: sentences.light },
            { id: 'dark', name: sentences.dark },
          ]}
          onChange={(theme) => void choice({ theme })}
        />
      </Choosing>
      <Choosing name={sentences.linesOfTheInbox}>
        <RadioGroup
          label={sentences.linesOfTheInbox}
          value={close ? 'close' : 'roomy'}
          options={[
            { id: 'roomy', name: sentences.roomy },
            { id: 'close', name: sentences.close },
          ]}
          onChange={(how) => setClose(how === 'close')}
        />
      </Choosing>
      <Choosing name={sentences.textOfMessages}>
        <RadioGroup
          label={sentences.textOfMessages}
          value={String(letters)}
          options={sizes.map((s) => ({ id: String(s), name: sentences.percent(Math.round(s * 100)) }))}
          onChange={(size) => setLetters(Number(size))}
        />
      </Choosing>
      <p className="mt-3 text-ink-500">{sentences.theLastTwoAre}</p>
    </Part>
  )
}
