import { render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it } from 'vitest'
import { Button, IconButton } from './button'
import { Popup } from './popup'
import { Tips } from './tip'

describe('what a control is for', () => {
  const two = (
    <>
      <IconButton label="Remove Oona Varga" tip="Remove">
        ×
      </IconButton>
      <IconButton label="Larger">+</IconButton>
      <Tips />
    </>
  )

  it('is shown where the keyboard reaches it, as a description, and goes with Escape', async () => {
    const user = userEvent.setup()
    render(two)
    await user.tab()
    const remove = screen.getByRole('button', { name: 'Remove Oona Varga' })
    expect(remove).toHaveFocus()
    expect(await screen.findByRole('tooltip')).toHaveTextContent('Remove')
    expect(remove).toHaveAccessibleDescription('Remove')
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('tooltip')).toBeNull()
    expect(remove).not.toHaveAccessibleDescription()
    await user.tab()
    expect(await screen.findByRole('tooltip')).toHaveTextContent('Larger')
    expect(screen.getByRole('button', { name: 'Larger' })).not.toHaveAccessibleDescription() // it is its name
  })

  it('is shown to the pointer that rests on it, and goes as it is pressed or left', async () => {
    const user = userEvent.setup()
    render(two)
    await user.hover(screen.getByRole('button', { name: 'Larger' }))
    expect(await screen.findByRole('tooltip')).toHaveTextContent('Larger')
    await user.hover(screen.getByRole('button', { name: 'Remove Oona Varga' }))
    await waitFor(() => expect(screen.getByRole('tooltip')).toHaveTextContent('Remove'))
    await user.click(screen.getByRole('button', { name: 'Remove Oona Varga' }))
    expect(screen.queryByRole('tooltip')).toBeNull()
  })
})

describe('what lies below its words', () => {
  function Where() {
    const [open, setOpen] = useState(false)
    return (
      <>
        <Popup label="Where are you?" look="pill" open={open} onOpenChange={setOpen} trigger="at the workshop">
          <Button onClick={() => setOpen(false)}>The harbour</Button>
        </Popup>
        <Button>Elsewhere</Button>
      </>
    )
  }

  it('opens and closes by them, and by Escape; they have the focus again', async () => {
    const user = userEvent.setup()
    render(<Where />)
    const words = screen.getByRole('button', { name: 'at the workshop' })
    expect(words).toHaveAttribute('aria-expanded', 'false')
    await user.click(words)
    expect(await screen.findByRole('dialog', { name: 'Where are you?' })).toBeVisible()
    expect(words).toHaveAttribute('aria-expanded', 'true')
    await user.click(words)
    expect(screen.queryByRole('dialog')).toBeNull()
    await user.click(words)
    await user.click(await screen.findByRole('button', { name: 'The harbour' }))
    await waitFor(() => expect(words).toHaveFocus())
    await user.keyboard('{Enter}')
    await screen.findByRole('dialog')
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('dialog')).toBeNull()
    await waitFor(() => expect(words).toHaveFocus())
  })

  it('closes as something else is pressed, which keeps the focus', async () => {
    const user = userEvent.setup()
    render(<Where />)
    await user.click(screen.getByRole('button', { name: 'at the workshop' }))
    await screen.findByRole('dialog')
    await user.click(screen.getByText('Elsewhere'))
    expect(screen.queryByRole('dialog')).toBeNull()
    await waitFor(() => expect(screen.getByRole('button', { name: 'Elsewhere' })).toHaveFocus())
  })
})
