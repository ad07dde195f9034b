import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { RadioGroup, TabList, TabPanel, Tabs, Toggle, ToggleGroup } from './choose'

const orders = [
  { id: 'oldest', name: 'oldest first' },
  { id: 'newest', name: 'newest first', note: 'what came last' },
  { id: 'sender', name: 'by sender' },
]

function Orders({ onChange }: { onChange: (v: string) => void }) {
  const [value, set] = useState('oldest')
  return (
    <RadioGroup
      label="Order"
      options={orders}
      value={value}
      onChange={(v) => {
        set(v)
        onChange(v)
      }}
    />
  )
}

describe('one of several', () => {
  it('is chosen by a click or by arrow keys, and never none', async () => {
    const change = vi.fn()
    const user = userEvent.setup()
    render(<Orders onChange={change} />)
    await user.click(screen.getByRole('radio', { name: 'by sender' }))
    await user.click(screen.getByRole('radio', { name: 'by sender' }))
    expect(change.mock.calls).toEqual([['sender']])
    screen.getByRole('radio', { name: 'by sender' }).focus()
    await user.keyboard('{ArrowLeft>}') // held, as a hand does
    expect(await screen.findByRole('radio', { name: 'newest first', checked: true })).toBeVisible()
    await user.keyboard('{/ArrowLeft}')
    expect(screen.getByRole('radio', { name: 'newest first' })).toHaveFocus()
    expect(screen.getByRole('radio', { name: 'newest first' })).toHaveAttribute('title', 'what came last')
  })

  it('is one stop for Tab, and leaves up and down to the list beside it', async () => {
    const change = vi.fn()
    const user = userEvent.setup()
    render(
      <>
        <Orders onChange={change} />
        <button type="button">after</button>
      </>,
    )
    await user.tab()
    expect(screen.getByRole('radio', { name: 'oldest first' })).toHaveFocus()
    await user.keyboard('{ArrowDown}{ArrowUp}')
    expect(change).not.toHaveBeenCalled()
    await user.tab()
    expect(screen.getByRole('button', { name: 'after' })).toHaveFocus()
  })

  it('takes values that are no text', async () => {
    const change = vi.fn()
    render(
      <RadioGroup label="Minutes" options={[0, 5].map((m) => ({ id: m, name: `${m}` }))} value={0} onChange={change} />,
    )
    await userEvent.click(screen.getByRole('radio', { name: '5' }))
    expect(change).toHaveBeenCalledWith(5)
  })
})

describe('one of several or none', () => {
  it('is let go when it is pressed again', async () => {
    const change = vi.fn()
    const labels = [
      { id: 4, name: 'loans' },
      { id: 7, name: 'press' },
    ]
    const { rerender } = render(<ToggleGroup label="Label" options={labels} value={0} none={0} onChange={change} />)
    for (const l of labels) expect(screen.getByRole('radio', { name: l.name })).not.toBeChecked()
    await userEvent.click(screen.getByText('press'))
    expect(change).toHaveBeenLastCalledWith(7)
    rerender(<ToggleGroup label="Label" options={labels} value={7} none={0} onChange={change} />)
    expect(screen.getByRole('radio', { name: 'press' })).toBeChecked()
    await userEvent.click(screen.getByText('press'))
    expect(change).toHaveBeenLastCalledWith(0)
  })
})

describe('a toggle', () => {
  it('says how it stands, and turns by Space', async () => {
    const change = vi.fn()
    const user = userEvent.setup()
    render(
      <Toggle on={false} onChange={change}>
        unread
      </Toggle>,
    )
    expect(screen.getByRole('button', { name: 'unread', pressed: false })).toBeVisible()
    await user.tab()
    await user.keyboard(' ')
    expect(change).toHaveBeenCalledWith(true)
  })
})

describe('what was chosen by pointer', () => {
  it('keeps the focus in a tray, and lets it go on a screen, where keys belong to the list', async () => {
    const user = userEvent.setup()
    const { rerender } = render(<Orders onChange={() => {}} />)
    await user.click(screen.getByRole('radio', { name: 'newest first' }))
    expect(document.body).toHaveFocus()
    rerender(
      <div data-tray>
        <Orders onChange={() => {}} />
      </div>,
    )
    await user.click(screen.getByRole('radio', { name: 'newest first' }))
    expect(screen.getByRole('radio', { name: 'newest first' })).toHaveFocus()
  })
})

describe('tabs', () => {
  it('name the one that is shown, and lead to what it shows', async () => {
    const change = vi.fn()
    const user = userEvent.setup()
    render(
      <Tabs value="date" onChange={change}>
        <TabList
          label="Arranged"
          options={[
            { id: 'date', name: 'By date' },
            { id: 'stage', name: 'By stage' },
          ]}
        />
        <TabPanel value="date">today and tomorrow</TabPanel>
      </Tabs>,
    )
    const tab = screen.getByRole('tab', { name: 'By date', selected: true })
    expect(screen.getByRole('tabpanel')).toHaveAttribute('id', tab.getAttribute('aria-controls'))
    tab.focus()
    await user.keyboard('{ArrowRight}')
    expect(change).toHaveBeenCalledWith('stage')
  })
})
