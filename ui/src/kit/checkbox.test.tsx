import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { Checkbox } from './checkbox'

function Remind({ told, disabled }: { told: (on: boolean) => void; disabled?: boolean }) {
  const [on, setOn] = useState(false)
  return (
    <Checkbox
      checked={on}
      disabled={disabled}
      onChange={(now) => {
        setOn(now)
        told(now)
      }}
    >
      Remind me
    </Checkbox>
  )
}

describe('a checkbox', () => {
  it('is turned by its words and by Space, and says how it stands', async () => {
    const told = vi.fn()
    const user = userEvent.setup()
    render(<Remind told={told} />)
    const box = screen.getByRole('checkbox', { name: 'Remind me' })
    expect(box).not.toBeChecked()
    await user.click(screen.getByText('Remind me'))
    expect(box).toBeChecked()
    expect(told).toHaveBeenLastCalledWith(true)
    await user.tab()
    box.focus()
    await user.keyboard(' ')
    expect(box).not.toBeChecked()
    expect(told).toHaveBeenCalledTimes(2)
  })

  it('does not submit the form it stands in', async () => {
    const submit = vi.fn()
    const user = userEvent.setup()
    render(
      <form onSubmit={submit}>
        <Remind told={() => {}} />
      </form>,
    )
    await user.click(screen.getByRole('checkbox'))
    await user.keyboard('{Enter}')
    expect(submit).not.toHaveBeenCalled()
  })

  it('stays as it is while it cannot be changed', async () => {
    const told = vi.fn()
    render(<Remind told={told} disabled />)
    await userEvent.click(screen.getByText('Remind me'))
    expect(told).not.toHaveBeenCalled()
  })
})
