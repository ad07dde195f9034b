import { Button } from '../kit/button'
import { sentences } from './sentences'

/** What stands where all of Ebbe could not be shown. */
export const Fallen = () => (
  <main className="mx-auto max-w-md px-6 py-16">
    <h1 className="text-[24px] tracking-[-.025em]">{sentences.ebbeCouldNotBeShown}</h1>
    <p role="alert" className="mt-2 mb-4 text-ink-700">
      {sentences.whatYouTypedIsKept}
    </p>
    <Button autoFocus onClick={() => location.reload()}>
      {sentences.loadThePageAgain}
    </Button>
  </main>
)
