import { render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { Commands, useCommands } from '../frame/commands'
import { Heading } from './heading'
import { List, MoreRow, Row } from './list'
import { Tick } from './pieces'

const titles = ['Ring the mover', 'Count chairs', 'Ask Halvard']

function Screen({ open, finish }: { open: () => void; finish: () => void }) {
  const [at, setAt] = useState(0)
  useCommands([
    { id: 'down', keys: ['ArrowDown'], run: () => setAt(Math.min(at + 1, 2)) },
    { id: 'open', keys: ['Enter'], run: open },
  ])
  return (
    <main>
      <Heading>Follow-ups</Heading>
      <List label="Today">
        {titles.map((t, i) => (
          <Row key={t} title={t} current={i === at} onChoose={() => setAt(i)} onOpen={open}>
            <Tick label={`Finish: ${t}`} tabIndex={-1} onClick={finish} />
            {t}
          </Row>
        ))}
        <MoreRow>
          <button type="button">Show more</button>
        </MoreRow>
      </List>
    </main>
  )
}

const show = () => {
  const did = { open: vi.fn(), finish: vi.fn() }
  render(
    <Commands own={{}}>
      <Screen {...did} />
    </Commands>,
  )
  return { ...did, user: userEvent.setup() }
}
const row = (name: string) => screen.getByRole('row', { name })

describe('a list with controls in its lines', () => {
  it('begins with its heading, and is one stop for Tab: the current line', async () => {
    const { user } = show()
    expect(screen.getByRole('heading', { name: 'Follow-ups' })).toHaveFocus()
    await user.tab()
    expect(row('Ring the mover')).toHaveFocus()
    expect(row('Ring the mover')).toHaveAttribute('aria-selected', 'true')
    await user.tab()
    expect(screen.getByRole('button', { name: 'Show more' })).toHaveFocus()
  })

  it('takes the focus along with its keys', async () => {
    const { user, open } = show()
    await user.keyboard('{ArrowDown}{ArrowDown}')
    expect(row('Ask Halvard')).toHaveFocus()
    expect(row('Ask Halvard')).toHaveAttribute('aria-current', 'true')
    expect(screen.getAllByRole('row', { selected: true })).toHaveLength(1)
    await user.keyboard('{Enter}')
    expect(open).toHaveBeenCalledTimes(1)
  })

  it('is chosen in by a click or by Space, and its controls keep their own', async () => {
    const { user, finish } = show()
    await user.click(screen.getByText('Count chairs'))
    expect(row('Count chairs')).toHaveAttribute('aria-selected', 'true')
    row('Ask Halvard').focus()
    await user.keyboard(' ')
    expect(row('Ask Halvard')).toHaveAttribute('aria-selected', 'true')
    await user.click(screen.getByRole('button', { name: 'Finish: Ask Halvard' }))
    expect(finish).toHaveBeenCalledTimes(1)
  })

  it('leaves the focus where one writes', async () => {
    const { user } = show()
    const field = document.createElement('input')
    screen.getByRole('main').append(field)
    field.focus()
    row('Count chairs').click()
    expect(field).toHaveFocus()
    await user.keyboard('x')
    expect(field).toHaveValue('x')
  })

  it('is no list while it has no lines', () => {
    render(<List label="With others" empty children={null} />)
    expect(screen.queryByRole('grid')).toBeNull()
  })
})
