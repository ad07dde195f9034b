import { act, render, screen } from '@testing-library/react'
import userEvent from '@testing-library/user-event'
import { afterEach, describe, expect, it, vi } from 'vitest'
import { Button, IconButton, Opener, TextButton } from './button'
import { Field, TextArea } from './field'
import { FileButton } from './files'
import { Loading } from './loading'

describe('a field', () => {
  it('has its label, also where none is seen', () => {
    render(
      <>
        <Field label="Subject" />
        <Field label="Percent" hideLabel />
        <TextArea label="Notes" />
      </>,
    )
    for (const name of ['Subject', 'Percent', 'Notes']) expect(screen.getByLabelText(name)).toBeVisible()
    expect(screen.queryByText('Percent')).toBeNull()
  })

  it.each([Field, TextArea])('says what is wrong with it, to the eye and to the ear', (Kind) => {
    const { rerender } = render(<Kind id="port" label="Port" />)
    expect(screen.getByLabelText('Port')).not.toHaveAttribute('aria-invalid')
    rerender(<Kind id="port" label="Port" wrong="A port is a number up to 65535." />)
    expect(screen.getByRole('alert')).toHaveTextContent('up to 65535')
    expect(screen.getByLabelText('Port')).toBeInvalid()
    expect(screen.getByLabelText('Port')).toHaveAccessibleDescription('A port is a number up to 65535.')
  })
})

describe('buttons', () => {
  it('send no form unless they say so', async () => {
    const send = vi.fn((e: React.FormEvent) => e.preventDefault())
    render(
      <form onSubmit={send}>
        <Button>Cancel</Button>
        <TextButton>Show all</TextButton>
        <IconButton label="Remove">×</IconButton>
        <Opener open={false}>More</Opener>
        <Button type="submit">Save</Button>
      </form>,
    )
    for (const name of ['Cancel', 'Show all', 'Remove', 'More'])
      await userEvent.click(screen.getByRole('button', { name }))
    expect(send).not.toHaveBeenCalled()
    await userEvent.click(screen.getByRole('button', { name: 'Save' }))
    expect(send).toHaveBeenCalledTimes(1)
  })

  it('that open something say whether it is open', () => {
    render(<Opener open>Headers</Opener>)
    expect(screen.getByRole('button', { name: 'Headers', expanded: true })).toBeVisible()
  })
})

describe('files', () => {
  it('are given as they are chosen, and can be chosen again', async () => {
    const files = vi.fn()
    render(
      <FileButton label="A calendar file" onFiles={files}>
        Read a file
      </FileButton>,
    )
    const ics = new File(['BEGIN:VCALENDAR'], 'week.ics', { type: 'text/calendar' })
    await userEvent.upload(screen.getByLabelText('A calendar file'), ics)
    await userEvent.upload(screen.getByLabelText('A calendar file'), ics)
    expect(files.mock.calls).toEqual([[[ics]], [[ics]]])
  })
})

describe('what is on its way', () => {
  afterEach(() => vi.useRealTimers())

  it('is told at once, and has a shape after 200 ms', () => {
    vi.useFakeTimers()
    render(<Loading what="Loading the follow-ups" lines={3} />)
    expect(screen.getByRole('status', { name: 'Loading the follow-ups' })).toBeInTheDocument()
    act(() => void vi.advanceTimersByTime(199))
    expect(document.querySelectorAll('[data-skeleton]')).toHaveLength(0)
    act(() => void vi.advanceTimersByTime(1))
    expect(document.querySelectorAll('[data-skeleton]')).toHaveLength(3)
  })
})
