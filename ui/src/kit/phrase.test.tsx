import { fireEvent, render, screen, waitFor } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { beforeEach, describe, expect, it, vi } from 'vitest'
import { KeepFields } from './keeping'
import { PeopleField } from './people'
import { dayOf, PhraseField } from './phrase'

/** A program that answers what it is asked with what is written for the path. */
const answers = (by: (path: string) => unknown) =>
  vi.stubGlobal('fetch', (path: string) =>
    Promise.resolve(new Response(JSON.stringify(by(path.replace('/api/v1', ''))))),
  )

const friday = { at: 1796112000000, local: '2026-12-04T09:00', zone: 'Europe/Oslo' }

describe('a time in words', () => {
  let asked: string[]
  beforeEach(() => {
    asked = []
    answers((path) => {
      const phrase = new URL('http://x' + path).searchParams.get('phrase')!
      asked.push(phrase)
      if (phrase === 'fri 9') return { moment: friday, timed: true, text: 'Fri 4 Dec, 9:00', doubt: false, also: 0 }
      if (phrase === 'next fri')
        return {
          moment: friday,
          other: { ...friday, at: 1 },
          timed: true,
          sentence: 'Fri 4 Dec',
          instead: 'Fri 27 Nov',
          also: 0,
        }
      return { moment: { at: 0 }, timed: false, text: '', doubt: true, also: 0 }
    })
  })
  const show = (more: Partial<Parameters<typeof PhraseField>[0]> = {}) => {
    const did = { chosen: vi.fn(), accept: vi.fn(), cancel: vi.fn() }
    render(
      <PhraseField
        id="when"
        label="When?"
        onChosen={did.chosen}
        onAccept={did.accept}
        onCancel={did.cancel}
        {...more}
      />,
    )
    return { ...did, user: userEvent.setup(), field: screen.getByLabelText('When?') }
  }

  it('is shown as it is understood, and taken on Enter', async () => {
    const { user, field, chosen, accept } = show()
    await user.type(field, 'fri 9')
    await waitFor(() => expect(chosen).toHaveBeenLastCalledWith({ moment: friday, timed: true }))
    await user.keyboard('{Enter}')
    await waitFor(() => expect(accept).toHaveBeenCalledWith({ moment: friday, timed: true }))
  })

  it('of before stands there again, and other words replace it', async () => {
    render(
      <KeepFields value={{ read: () => 'tomorow', type: () => {} }}>
        <PhraseField id="when" label="When?" autoFocus onChosen={() => {}} onAccept={() => {}} />
      </KeepFields>,
    )
    const field = screen.getByLabelText<HTMLInputElement>('When?')
    expect([field.value, field.selectionStart, field.selectionEnd]).toEqual(['tomorow', 0, 7])
    await userEvent.setup().keyboard('fri 9')
    expect(field.value).toBe('fri 9')
  })

  it('that can mean two is shown as both, and Enter takes the one that was chosen', async () => {
    const { user, field, chosen, accept } = show()
    await user.type(field, 'next fri')
    await screen.findByRole('button', { name: 'or Fri 27 Nov ↓' })
    await user.keyboard('{ArrowDown}')
    await screen.findByRole('button', { name: 'or Fri 4 Dec ↓' })
    expect(document.getElementById('when-means')).toHaveTextContent('Fri 27 Nov')
    expect(chosen).toHaveBeenLastCalledWith({ moment: { ...friday, at: 1 }, timed: true })
    await user.keyboard('{Enter}')
    await waitFor(() => expect(accept).toHaveBeenCalledWith({ moment: { ...friday, at: 1 }, timed: true }))
  })

  it('is not taken while a word is being composed, nor when it is not understood', async () => {
    const { user, field, accept, cancel } = show()
    await user.type(field, 'fri 9')
    await waitFor(() => expect(asked).toContain('fri 9'))
    fireEvent.keyDown(field, { key: 'Enter', isComposing: true })
    fireEvent.keyDown(field, { key: 'Escape', isComposing: true })
    await user.clear(field)
    await user.type(field, 'some time')
    await user.keyboard('{Enter}{Enter}')
    await waitFor(() => expect(asked.at(-1)).toBe('some time'))
    expect(accept).not.toHaveBeenCalled()
    expect(cancel).not.toHaveBeenCalled()
    await user.keyboard('{Escape}')
    expect(cancel).toHaveBeenCalledTimes(1)
  })

  it('goes, with what it meant, when something else was chosen', async () => {
    const { rerender } = render(<PhraseField id="w" label="Day" clear={0} onChosen={() => {}} onAccept={() => {}} />)
    await userEvent.type(screen.getByLabelText('Day'), 'fri 9')
    rerender(<PhraseField id="w" label="Day" clear={1} onChosen={() => {}} onAccept={() => {}} />)
    expect(screen.getByLabelText('Day')).toHaveValue('')
  })

  it('is a day where a day is enough', () => {
    expect(dayOf(friday)).toEqual({ ...friday, local: '2026-12-04' })
    expect(dayOf({ at: 5 })).toEqual({ at: 5 })
  })
})

describe('a line of people', () => {
  beforeEach(() =>
    answers((path) =>
      path.includes('begins=oo')
        ? [
            { name: 'Oona Varga', address: 'oona@varga.example' },
            { name: 'Oolie Brandt', address: 'oolie@brandt.example' },
          ]
        : [],
    ),
  )
  const show = () => {
    const change = vi.fn()
    render(<PeopleField id="to" label="To" people={[]} onChange={change} />)
    return { change, user: userEvent.setup(), field: screen.getByLabelText('To') }
  }

  it('offers those it knows, and takes the one that is pointed at', async () => {
    const { user, field, change } = show()
    await user.type(field, 'oo')
    expect(await screen.findAllByRole('option')).toHaveLength(2)
    await user.keyboard('{ArrowDown}{Enter}')
    expect(change).toHaveBeenLastCalledWith([{ name: 'Oolie Brandt', address: 'oolie@brandt.example' }])
  })

  it('takes an address as it is, and a name with a comma as one', async () => {
    const { user, field, change } = show()
    await user.type(field, 'per@lind.example,')
    expect(change).toHaveBeenLastCalledWith([{ name: '', address: 'per@lind.example' }])
    await user.clear(field)
    await user.type(field, '"Varga, Oona" <oona@varga.example>,')
    expect(change).toHaveBeenLastCalledWith([{ name: 'Varga, Oona', address: 'oona@varga.example' }])
  })

  it('takes all that is pasted', async () => {
    const { user, field, change } = show()
    await user.click(field)
    await user.paste('a@x.example; b@x.example')
    expect(change).toHaveBeenLastCalledWith([
      { name: '', address: 'a@x.example' },
      { name: '', address: 'b@x.example' },
    ])
  })

  it('takes nobody while a word is being composed', async () => {
    const { user, field, change } = show()
    await user.type(field, 'oo')
    await screen.findAllByRole('option')
    fireEvent.keyDown(field, { key: 'Enter', isComposing: true })
    expect(change).not.toHaveBeenCalled()
    await user.keyboard('{Escape}')
    expect(screen.queryByRole('option')).toBeNull()
  })
})
