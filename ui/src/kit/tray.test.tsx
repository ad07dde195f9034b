import { fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { Commands, DOCK, TRAY, useCommands } from '../frame/commands'
import { Tray } from './tray'

/** A list with a dock: a key bins, arrows move, one key opens the tray. */
function Screen({ bin, move, flag }: { bin: () => void; move: () => void; flag: () => void }) {
  const [open, setOpen] = useState(false)
  useCommands(
    [
      { id: 'a', keys: ['1'], run: bin },
      { id: 'b', keys: ['ArrowDown'], run: move },
      { id: 'c', keys: ['5'], run: () => setOpen(true) },
    ],
    DOCK,
  )
  return (
    <>
      <button type="button" onClick={() => setOpen(true)}>
        Open
      </button>
      {open && <Inside flag={flag} close={() => setOpen(false)} />}
    </>
  )
}

function Inside({ flag, close }: { flag: () => void; close: () => void }) {
  useCommands([{ id: 'd', keys: ['2'], run: flag }], TRAY)
  return (
    <Tray label="Flag" onClose={close} onSubmit={flag}>
      <input aria-label="Day" />
      <input type="checkbox" aria-label="Remind me" />
    </Tray>
  )
}

const show = () => {
  const did = { bin: vi.fn(), move: vi.fn(), flag: vi.fn() }
  render(
    <Commands own={{}}>
      <Screen {...did} />
    </Commands>,
  )
  return { ...did, user: userEvent.setup() }
}

describe('a tray', () => {
  it('takes the focus and gives it back to what opened it', async () => {
    const { user } = show()
    const button = screen.getByRole('button', { name: 'Open' })
    await user.click(button)
    expect(screen.getByRole('form', { name: 'Flag' })).toHaveFocus()
    await user.click(screen.getByLabelText('Day'))
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('form')).toBeNull()
    expect(button).toHaveFocus()
  })

  it('closes on Escape, but not on the one that ends composing a word', async () => {
    const { user } = show()
    await user.keyboard('5')
    fireEvent.keyDown(screen.getByLabelText('Day'), { key: 'Escape', isComposing: true })
    expect(screen.getByRole('form')).toBeVisible()
    fireEvent.keyDown(screen.getByLabelText('Day'), { key: 'Escape' })
    expect(screen.queryByRole('form')).toBeNull()
  })

  it('keeps what moves about, and what is pressed on its controls, to itself', async () => {
    const { user, bin, move, flag } = show()
    await user.keyboard('{ArrowDown}')
    expect(move).toHaveBeenCalledTimes(1)
    await user.keyboard('5')
    await user.keyboard('{ArrowDown}')
    expect(move).toHaveBeenCalledTimes(1)
    await user.click(screen.getByLabelText('Remind me'))
    await user.keyboard('1')
    expect(bin).not.toHaveBeenCalled()
    await user.keyboard('2')
    expect(flag).toHaveBeenCalledTimes(1)
    await user.keyboard('{Escape}{ArrowDown}1')
    expect(move).toHaveBeenCalledTimes(2)
    expect(bin).toHaveBeenCalledTimes(1)
  })

  it('submits on Enter in a field, once for one press', async () => {
    const { user, flag } = show()
    await user.keyboard('5')
    await user.click(screen.getByLabelText('Day'))
    await user.keyboard('{Enter}')
    expect(flag).toHaveBeenCalledTimes(1)
  })
})

describe('keys of commands', () => {
  it('mean nothing while a word is composed or with AltGr, and count by place on other layouts', () => {
    const { bin } = show()
    fireEvent.keyDown(window, { key: '1', code: 'Digit1', isComposing: true })
    fireEvent.keyDown(window, { key: '1', code: 'Digit1', modifierAltGraph: true })
    fireEvent.keyDown(window, { key: '1', code: 'Digit1', altKey: true })
    expect(bin).not.toHaveBeenCalled()
    fireEvent.keyDown(window, { key: '&', code: 'Digit1' })
    expect(bin).toHaveBeenCalledTimes(1)
  })
})
