import { act, fireEvent, render, screen } from '@testing-library/react'
import { useState } from 'react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { Button } from './button'
import { Collapsible } from './collapsible'
import { Dialog } from './dialog'
import { Notice } from './notice'
import { Toast, ToastPlace, Toasts } from './toast'

describe('a notice', () => {
  it('that something is wrong is read out at once, and any other when there is silence', () => {
    render(
      <>
        <Notice>The server says no.</Notice>
        <Notice tone="fine">The server lets you in.</Notice>
      </>,
    )
    expect(screen.getByRole('alert').textContent).toBe('The server says no.')
    expect(screen.getByRole('status').textContent).toBe('The server lets you in.')
  })
})

describe('a collapsible', () => {
  function Quoted() {
    const [open, setOpen] = useState(false)
    return (
      <Collapsible head="Quoted text" open={open} onOpenChange={setOpen}>
        what was quoted
      </Collapsible>
    )
  }
  it('says whether it is open, and what it holds is there only then', () => {
    render(<Quoted />)
    const head = screen.getByRole('button', { name: 'Quoted text' })
    expect(head.getAttribute('aria-expanded')).toBe('false')
    expect(screen.queryByText('what was quoted')).toBeNull()
    fireEvent.click(head)
    expect(head.getAttribute('aria-expanded')).toBe('true')
    expect(document.getElementById(head.getAttribute('aria-controls')!)?.textContent).toBe('what was quoted')
  })
})

describe('a dialog', () => {
  const done = vi.fn()
  beforeEach(() => {
    done.mockClear()
    render(
      <Dialog title="Delete the account?" text="Its mail stays." does="Delete the account" onDo={done}>
        <Button>Delete…</Button>
      </Dialog>,
    )
    screen.getByText('Delete…').focus()
    fireEvent.click(screen.getByText('Delete…'))
  })
  it('has a name, says what it does, and begins at the way out', () => {
    const dialog = screen.getByRole('alertdialog', { name: 'Delete the account?' })
    expect(document.getElementById(dialog.getAttribute('aria-describedby')!)?.textContent).toBe('Its mail stays.')
    expect(document.activeElement?.textContent).toBe('Cancel')
  })
  it('does nothing on Escape, and the focus is where it was', async () => {
    fireEvent.keyDown(document.activeElement!, { key: 'Escape' })
    await vi.waitFor(() => expect(screen.queryByRole('alertdialog')).toBeNull())
    expect(done).not.toHaveBeenCalled()
    await vi.waitFor(() => expect(document.activeElement?.textContent).toBe('Delete…'))
  })
  it('does it once', () => {
    const button = screen.getByRole('button', { name: 'Delete the account' })
    fireEvent.click(button)
    fireEvent.click(button)
    expect(done).toHaveBeenCalledOnce()
  })
  it('lets no key through to what lies below', () => {
    const below = vi.fn()
    window.addEventListener('keydown', below)
    fireEvent.keyDown(document.activeElement!, { key: '2' })
    window.removeEventListener('keydown', below)
    expect(below).not.toHaveBeenCalled()
  })
})

describe('a toast', () => {
  const ended = vi.fn()
  beforeEach(() => {
    ended.mockClear()
    vi.useFakeTimers()
  })
  afterEach(() => vi.useRealTimers())
  const show = (wrong: boolean, own: boolean) =>
    render(
      <Toasts>
        {own && (
          <div data-testid="bar">
            <ToastPlace />
          </div>
        )}
        <div data-testid="foot">
          <ToastPlace usual />
        </div>
        <Toast wrong={wrong} onEnd={ended}>
          Archived.
        </Toast>
      </Toasts>,
    )
  it('is said in the place the screen has for it, else at the foot', () => {
    const { unmount } = show(false, true)
    expect(screen.getByTestId('bar').textContent).toContain('Archived.')
    expect(screen.getByTestId('foot').textContent).toBe('')
    unmount()
    show(false, false)
    expect(screen.getByTestId('foot').textContent).toContain('Archived.')
  })
  it('goes after six seconds, but not while it is pointed at', () => {
    show(false, true)
    act(() => vi.advanceTimersByTime(5000))
    fireEvent.pointerEnter(screen.getByTestId('notice'))
    act(() => vi.advanceTimersByTime(60_000))
    expect(ended).not.toHaveBeenCalled()
    fireEvent.pointerLeave(screen.getByTestId('notice'))
    act(() => vi.advanceTimersByTime(999))
    expect(ended).not.toHaveBeenCalled()
    act(() => vi.advanceTimersByTime(2))
    expect(ended).toHaveBeenCalledOnce()
  })
  it('is read out: its place is a live region before anything is said in it', () => {
    show(false, true)
    expect(screen.getByTestId('notice').closest('[aria-live=polite]')).not.toBeNull()
    expect(screen.getByTestId('foot').querySelector('[aria-live=polite]')).not.toBeNull()
  })
  it('that something is wrong stays', () => {
    show(true, true)
    act(() => vi.advanceTimersByTime(60_000))
    expect(ended).not.toHaveBeenCalled()
  })
})
