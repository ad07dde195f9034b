import { useState } from 'react'
import { EbbeError, post, told } from '../../api/client'
import { client } from '../../api/queries'
import { long } from '../../api/times'
import { useDesk } from '../../frame/desk'
import { Button, LinkButton } from '../../kit/button'
import { Dialog } from '../../kit/dialog'
import { Field } from '../../kit/field'
import { useFinished } from '../../kit/keeping'
import { sentences } from './sentences'

/** All that is the user's, to be taken along, and the way out of this Ebbe. */
export function Leaving({ leaves }: { leaves: number }) {
  const { say } = useDesk()
  const [password, setPassword] = useState('')
  const [wrong, setWrong] = useState('')
  const finished = useFinished('leave-password')
  const leave = async (days: number) => {
    setWrong('')
    try {
      await post('/leave', { password, days })
      finished()
      setPassword('')
    } catch (e) {
      if (e instanceof EbbeError) setWrong(e.message)
      else say({ text: told(e), wrong: true })
    }
    void client.invalidateQueries({ queryKey: ['security'] })
    if (!days) void client.invalidateQueries({ queryKey: ['session'] })
  }
  const stay = async () => {
    try {
      await post('/stay')
      say({ text: sentences.youStay })
    } catch (e) {
      say({ text: told(e), wrong: true })
    }
    void client.invalidateQueries({ queryKey: ['security'] })
  }
  return (
    <>
      <h3 className="mt-7 mb-1 text-[15px]">{sentences.allThatIsYours}</h3>
      <p className="mb-2 max-w-xl text-ink-500">{sentences.allThatIsYoursMeans}</p>
      <LinkButton quiet href="/api/v1/mine" download>
        {sentences.takeItAll}
      </LinkButton>
      <h3 className="mt-7 mb-1 text-[15px]">{sentences.leaveThisEbbe}</h3>
      {leaves > 0 ? (
        <>
          <p className="mb-2 max-w-xl" data-testid="leaves">
            {sentences.youLeaveOn(long(leaves))}
          </p>
          <Button quiet onClick={() => void stay()}>
            {sentences.stay}
          </Button>
        </>
      ) : (
        <>
          <p className="mb-2 max-w-xl text-ink-500">{sentences.leavingMeans}</p>
          <div className="flex max-w-md flex-col items-start gap-2.5">
            <Field
              id="leave-password"
              label={sentences.yourPassword}
              type="password"
              autoComplete="current-password"
              className="w-full"
              value={password}
              wrong={wrong || undefined}
              onChange={(e) => setPassword(e.target.value)}
            />
            <Dialog
              title={sentences.leaveQuestion}
              text={sentences.leaveText}
              does={sentences.inAWeek}
              onDo={() => void leave(7)}
              also={{ does: sentences.now, onDo: () => void leave(0) }}
            >
              <Button ground="late-quiet">{sentences.leave}</Button>
            </Dialog>
          </div>
        </>
      )}
    </>
  )
}
