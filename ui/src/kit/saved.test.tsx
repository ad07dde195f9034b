import { act, cleanup, fireEvent, render, screen } from '@testing-library/react'
import { afterEach, expect, test, vi } from 'vitest'
import { KeepFields } from './keeping'
import { SavedField } from './saved'

afterEach(cleanup)

const shown = () => screen.getByLabelText<HTMLInputElement>('Name')
const type = (value: string) => fireEvent.change(shown(), { target: { value } })
const press = (key: string, more = {}) => act(async () => void fireEvent.keyDown(shown(), { key, ...more }))

function field(onSave: (text: string) => Promise<string | undefined>, kept: Record<string, string> = {}) {
  const keeper = {
    read: (f: string) => kept[f],
    type: (f: string, text: string, first: string) => {
      if (text === first) delete kept[f]
      else kept[f] = text
    },
  }
  render(
    <KeepFields value={keeper}>
      <SavedField id="name" label="Name" value="loans" onSave={onSave} />
    </KeepFields>,
  )
  return kept
}

test('Enter saves once, and leaving it then saves nothing more', async () => {
  const save = vi.fn(() => Promise.resolve(undefined))
  const kept = field(save)
  type('the loans ')
  expect(kept).toEqual({ name: 'the loans ' })
  await press('Enter')
  await press('Enter')
  fireEvent.blur(shown())
  expect(save.mock.calls).toEqual([['the loans']])
  expect(kept).toEqual({})
})

test('leaving it saves, unless nothing is different', async () => {
  const save = vi.fn(() => Promise.resolve(undefined))
  field(save)
  fireEvent.blur(shown())
  type('loans ')
  fireEvent.blur(shown())
  expect(save).not.toHaveBeenCalled()
  type('leg two')
  await act(async () => void fireEvent.blur(shown()))
  expect(save).toHaveBeenCalledTimes(1)
})

test('what is wrong stands below it, and what was typed stays, also for the next time', async () => {
  const kept = field(() => Promise.resolve('There is one already.'))
  type('choir')
  await press('Enter')
  expect(screen.getByRole('alert').textContent).toBe('There is one already.')
  expect(shown().value).toBe('choir')
  expect(kept).toEqual({ name: 'choir' })
  await press('Escape')
  expect(shown().value).toBe('loans')
  expect(screen.queryByRole('alert')).toBeNull()
  expect(kept).toEqual({})
})

test('what was typed before and not saved is there again', () => {
  field(() => Promise.resolve(undefined), { name: 'choir' })
  expect(shown().value).toBe('choir')
})

test('a word that is being composed is not saved', async () => {
  const save = vi.fn(() => Promise.resolve(undefined))
  field(save)
  type('ろ')
  await press('Enter', { isComposing: true })
  expect(save).not.toHaveBeenCalled()
})

test('what is typed while it is being saved stays', async () => {
  let done: (none: undefined) => void = () => {}
  const kept = field(() => new Promise((resolve) => (done = resolve)))
  type('one')
  await press('Enter')
  type('one more')
  await act(async () => done(undefined))
  expect(shown().value).toBe('one more')
  expect(kept).toEqual({ name: 'one more' })
})
