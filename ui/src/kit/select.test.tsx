import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { describe, expect, it, vi } from 'vitest'
import { Commands, DOCK, useCommands } from '../frame/commands'
import { named, Select } from './select'
import { Tray } from './tray'

const stages = [
  { id: 'todo', name: 'To do' },
  { id: 'under-way', name: 'Under way' },
  { id: 'finished', name: 'Finished' },
]

function Keys({ bin }: { bin: () => void }) {
  useCommands([{ id: 'a', keys: ['u', '1'], run: bin }], DOCK)
  return null
}

const show = () => {
  const did = { change: vi.fn(), bin: vi.fn(), close: vi.fn() }
  render(
    <Commands own={{}}>
      <Keys bin={did.bin} />
      <Tray label="Change" onClose={did.close}>
        <Select label="Stage" value="todo" options={stages} onChange={did.change} />
      </Tray>
    </Commands>,
  )
  return { ...did, user: userEvent.setup() }
}

describe('a selection', () => {
  it('has its label, says what is chosen, and gives what is taken', async () => {
    const { user, change } = show()
    const box = screen.getByRole('combobox', { name: 'Stage' })
    expect(box).toHaveTextContent('To do')
    await user.click(box)
    await user.click(screen.getByRole('option', { name: 'Finished' }))
    expect(change).toHaveBeenCalledWith('finished')
    expect(box).toHaveFocus()
  })

  it('is gone through by keys, whose letters are no commands meanwhile', async () => {
    const { user, change, bin } = show()
    screen.getByRole('combobox').focus()
    await user.keyboard('{Enter}')
    expect(await screen.findByRole('option', { name: 'To do' })).toBeVisible()
    await user.keyboard('u1')
    expect(bin).not.toHaveBeenCalled()
    await user.keyboard('{ArrowDown}{Enter}')
    expect(change).toHaveBeenCalledTimes(1)
  })

  it('is closed by Escape, and not the tray it stands in', async () => {
    const { user, close, change } = show()
    screen.getByRole('combobox').focus()
    await user.keyboard('{Enter}')
    await screen.findByRole('option', { name: 'To do' })
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('option')).toBeNull()
    expect(close).not.toHaveBeenCalled()
    expect(change).not.toHaveBeenCalled()
    await user.keyboard('{Escape}')
    expect(close).toHaveBeenCalledTimes(1)
  })

  it('shows nothing for what is not among its options', () => {
    render(<Select label="Stage" value="gone" options={stages} onChange={() => {}} />)
    expect(screen.getByRole('combobox', { name: 'Stage' })).toHaveTextContent(/^$/)
  })

  it('takes options that are names only, in their order', () => {
    expect(named({ b: 'second', a: 'first' })).toEqual([
      { id: 'b', name: 'second' },
      { id: 'a', name: 'first' },
    ])
  })
})
