import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it } from 'vitest'
import { Button } from './button'
import { arrive, Heading } from './heading'
import { Popup } from './popup'

/** A frame, and a screen whose answer comes when "Answer" is pressed. */
function Frame() {
  const [open, setOpen] = useState(false)
  const [answered, setAnswered] = useState(false)
  return (
    <>
      <a href="#week">Week</a>
      <Popup label="More places" look="pill" open={open} onOpenChange={setOpen} trigger="More">
        <Button onClick={() => setAnswered(true)}>Answer</Button>
      </Popup>
      <main>{answered ? <Heading>Week</Heading> : <Button onClick={() => setAnswered(true)}>Answer</Button>}</main>
    </>
  )
}

describe('the beginning of a screen', () => {
  it('takes the focus from the link by which one came, and from nowhere', async () => {
    const user = userEvent.setup()
    arrive()
    const { unmount } = render(<Frame />)
    await user.click(screen.getByText('Answer'))
    await waitFor(() => expect(screen.getByRole('heading')).toHaveFocus())
    unmount()
    arrive()
    render(
      <>
        <a href="#week" ref={(e) => e?.focus()}>
          Week
        </a>
        <main>
          <Heading>Week</Heading>
        </main>
      </>,
    )
    expect(screen.getByRole('heading')).toHaveFocus()
  })

  it('leaves it to what was opened before its answer came', async () => {
    const user = userEvent.setup()
    arrive()
    render(<Frame />)
    await user.click(screen.getByRole('button', { name: 'More' }))
    const inside = await screen.findByRole('dialog')
    const answer = inside.querySelector('button')!
    await user.click(answer)
    expect(await screen.findByText('Week', { selector: 'h1' })).toBeInTheDocument()
    expect(screen.getByRole('dialog')).toContainElement(answer)
    expect(answer).toHaveFocus()
  })
})
