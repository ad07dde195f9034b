import { useState } from 'react'
import { createRoot } from 'react-dom/client'
import { afterEach, expect, it } from 'vitest'
import { KeepFields, useKeptField } from './keeping'

const acts = globalThis as { IS_REACT_ACT_ENVIRONMENT?: boolean }
afterEach(() => {
  acts.IS_REACT_ACT_ENVIRONMENT = true
})

function Line() {
  const [text, setText] = useState('')
  const { typed } = useKeptField('line', text, setText)
  return (
    <input
      aria-label="Line"
      value={text}
      onChange={(e) => {
        typed(e.target.value)
        setText(e.target.value)
      }}
    />
  )
}

it('what was typed before stands in the field as it appears: no letter can come before it', async () => {
  acts.IS_REACT_ACT_ENVIRONMENT = false // as in a browser: what comes later comes later
  const host = document.createElement('div')
  const appeared = new Promise<string>((done) =>
    new MutationObserver((_, observer) => {
      observer.disconnect()
      done(host.querySelector('input')!.value)
    }).observe(host, { childList: true }),
  )
  const root = createRoot(host)
  root.render(
    <KeepFields value={{ read: () => 'idu', type: () => {} }}>
      <Line />
    </KeepFields>,
  )
  expect(await appeared).toBe('idu')
  root.unmount()
})
