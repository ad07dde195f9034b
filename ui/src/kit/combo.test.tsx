import { fireEvent, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { useState } from 'react'
import { describe, expect, it, vi } from 'vitest'
import { Combo } from './combo'
import { KeepFields } from './keeping'

const all = ['loans', 'loans / leg two', 'press', 'workshop']

function Labels({
  take,
  enter,
  clears,
}: {
  take: (l: string) => unknown
  enter?: (l: string | undefined) => unknown
  clears?: boolean // the words go with what is taken
}) {
  const [text, setText] = useState('')
  return (
    <Combo
      id="label"
      label="Label"
      listLabel="Labels"
      text={text}
      offers={all.filter((l) => l.includes(text))}
      keyOf={(l) => l}
      none={<p>nothing has these letters</p>}
      onText={setText}
      onTake={take}
      onEnter={clears ? () => setText('') : enter}
    >
      {(l) => l}
    </Combo>
  )
}

const field = () => screen.getByRole('combobox', { name: 'Label' })
/** The option that is pointed at, as the field tells it. */
const pointed = () => document.getElementById(field().getAttribute('aria-activedescendant') ?? '')?.textContent

describe('a field with offers', () => {
  it('keeps the focus, and tells which offer is pointed at', async () => {
    const user = userEvent.setup()
    render(<Labels take={() => {}} />)
    await user.click(field())
    expect(pointed()).toBe('loans')
    await user.keyboard('{ArrowDown}{ArrowDown}')
    expect(pointed()).toBe('press')
    expect(field()).toHaveFocus()
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}')
    expect(pointed()).toBe('workshop') // the last one stays
    await user.keyboard('{ArrowUp>9/}')
    expect(pointed()).toBe('loans')
  })

  it('points at the first again when the text has changed', async () => {
    const user = userEvent.setup()
    render(<Labels take={() => {}} />)
    await user.click(field())
    await user.keyboard('{ArrowDown}{ArrowDown}{ArrowDown}o')
    expect(pointed()).toBe('loans')
    await user.keyboard('x')
    expect(pointed()).toBeUndefined()
    expect(field()).toHaveAttribute('aria-expanded', 'false')
    expect(screen.getByText('nothing has these letters')).toBeVisible()
  })

  it('takes on Enter what is pointed at, and on a click what is clicked, without losing the focus', async () => {
    const take = vi.fn()
    const user = userEvent.setup()
    render(<Labels take={take} />)
    await user.click(field())
    await user.keyboard('{ArrowDown}{Enter}')
    expect(take).toHaveBeenLastCalledWith('loans / leg two')
    await user.click(screen.getByRole('option', { name: 'press' }))
    expect(take).toHaveBeenLastCalledWith('press')
    expect(field()).toHaveFocus()
  })

  it('takes nothing while a word is being composed', () => {
    const take = vi.fn()
    render(<Labels take={take} />)
    fireEvent.keyDown(field(), { key: 'ArrowDown', isComposing: true })
    fireEvent.keyDown(field(), { key: 'Enter', isComposing: true })
    expect(take).not.toHaveBeenCalled()
    expect(pointed()).toBe('loans')
  })

  it('makes one thing of two Enters, and another once the first is there', async () => {
    let done = () => {}
    const enter = vi.fn(() => new Promise<void>((ready) => (done = ready)))
    const user = userEvent.setup()
    render(<Labels take={() => {}} enter={enter} />)
    await user.click(field())
    await user.keyboard('archive{Enter}{Enter}')
    expect(enter).toHaveBeenCalledTimes(1)
    done()
    await Promise.resolve()
    await user.keyboard('{Enter}')
    expect(enter).toHaveBeenCalledTimes(2)
  })

  it('can be used again after what it began has failed', async () => {
    const enter = vi.fn<() => Promise<void>>().mockRejectedValueOnce(new Error('no')).mockResolvedValue()
    const user = userEvent.setup()
    const refused = vi.fn((e: PromiseRejectionEvent) => e.preventDefault())
    window.addEventListener('unhandledrejection', refused)
    render(<Labels take={() => {}} enter={() => enter().catch(() => {})} />)
    await user.click(field())
    await user.keyboard('{Enter}')
    await user.keyboard('{Enter}')
    expect(enter).toHaveBeenCalledTimes(2)
    expect(refused).not.toHaveBeenCalled()
    window.removeEventListener('unhandledrejection', refused)
  })
})

describe('a field of which several are taken', () => {
  it('turns them by Space while nothing is typed, and goes along the row', async () => {
    const take = vi.fn()
    const user = userEvent.setup()
    render(
      <Combo
        id="label"
        label="Label"
        listLabel="Labels"
        layout="wrapped"
        text=""
        offers={all}
        keyOf={(l) => l}
        taken={(l) => l === 'press'}
        onText={() => {}}
        onTake={take}
      >
        {(l) => l}
      </Combo>,
    )
    await user.click(field())
    await user.keyboard('{ArrowRight}{ArrowRight}{ArrowLeft} ')
    expect(take).toHaveBeenCalledWith('loans / leg two')
    expect(screen.getByRole('option', { name: 'press' })).toHaveAttribute('aria-selected', 'true')
    expect(screen.getByRole('listbox')).toHaveAttribute('aria-multiselectable', 'true')
  })
  it('keeps what is typed in it until something is taken', async () => {
    const kept: Record<string, string> = { label: 'lo' }
    const type = (f: string, text: string, first: string) => {
      if (text === first) delete kept[f]
      else kept[f] = text
    }
    const user = userEvent.setup()
    render(
      <KeepFields value={{ read: (f) => kept[f], type }}>
        <Labels take={() => {}} clears />
      </KeepFields>,
    )
    expect(field()).toHaveValue('lo')
    await user.type(field(), 'an')
    expect(kept).toEqual({ label: 'loan' })
    await user.keyboard('{Enter}')
    expect(kept).toEqual({})
  })
})
