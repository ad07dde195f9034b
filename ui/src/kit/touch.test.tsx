import { act, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest'
import { type Swipe, swipeAt, useTouch } from './touch'

describe('a swipe', () => {
  it.each([
    [0, undefined],
    [71, undefined],
    [72, 'right'],
    [167, 'right'],
    [168, 'rightFar'],
    [-71, undefined],
    [-72, 'left'],
    [-400, 'leftFar'],
  ])('of %i px is %s', (by, means) => expect(swipeAt(by)).toBe(means))
})

function Slip({ swiped, held, pressed }: { swiped: (w: Swipe) => void; held: () => void; pressed: () => void }) {
  const touch = useTouch({ onSwipe: swiped, onHold: held })
  return (
    <div data-testid="slip" {...touch.handlers}>
      <button onClick={pressed}>slip</button>
    </div>
  )
}

describe('a finger', () => {
  const swiped = vi.fn()
  const held = vi.fn()
  const pressed = vi.fn()
  const finger = (kind: 'pointerDown' | 'pointerMove' | 'pointerUp', x: number, y = 100, pointerType = 'touch') =>
    fireEvent[kind](screen.getByTestId('slip'), { clientX: x, clientY: y, pointerType, pointerId: 1 })
  beforeEach(() => {
    vi.useFakeTimers()
    vi.clearAllMocks()
    Element.prototype.setPointerCapture = () => {}
    render(<Slip swiped={swiped} held={held} pressed={pressed} />)
  })
  afterEach(() => vi.useRealTimers())
  const wait = (ms: number) => act(() => vi.advanceTimersByTime(ms))
  const click = () => fireEvent.click(screen.getByRole('button'))

  it('that rests is a long press, and no click', () => {
    finger('pointerDown', 100)
    finger('pointerMove', 104)
    wait(449)
    expect(held).not.toHaveBeenCalled()
    wait(1)
    expect(held).toHaveBeenCalledOnce()
    finger('pointerUp', 104)
    click()
    expect(pressed).not.toHaveBeenCalled()
    click()
    expect(pressed).toHaveBeenCalledOnce()
  })
  it('that moves aside is a swipe, and no long press', () => {
    finger('pointerDown', 100)
    finger('pointerMove', 130)
    wait(1000)
    finger('pointerMove', 290)
    finger('pointerUp', 290)
    expect(held).not.toHaveBeenCalled()
    expect(swiped).toHaveBeenCalledExactlyOnceWith('rightFar')
  })
  it('that moves down scrolls: nothing else', () => {
    finger('pointerDown', 100)
    finger('pointerMove', 102, 130)
    finger('pointerMove', 300, 140)
    wait(1000)
    finger('pointerUp', 300, 140)
    expect(held).not.toHaveBeenCalled()
    expect(swiped).not.toHaveBeenCalled()
  })
  it('is not a mouse', () => {
    finger('pointerDown', 100, 100, 'mouse')
    wait(1000)
    finger('pointerMove', 300, 100, 'mouse')
    finger('pointerUp', 300, 100, 'mouse')
    expect(held).not.toHaveBeenCalled()
    expect(swiped).not.toHaveBeenCalled()
  })
})
