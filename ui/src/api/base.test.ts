import { afterEach, expect, test, vi } from 'vitest'

afterEach(() => {
  vi.unstubAllGlobals()
  vi.resetModules()
})

const at = async (pathname: string) => {
  vi.stubGlobal('location', { pathname })
  return import('./base')
}

test('a page below /in/3 is in the box with that number, and nothing else is', async () => {
  const { boxIn } = await at('/')
  expect(['/in/3', '/in/3/', '/in/3/c/7', '/', '/c/3', '/in/x', '/in/3x', '/invited', '/in/'].map(boxIn)).toEqual([
    3, 3, 3, 0, 0, 0, 0, 0, 0,
  ])
})

test('in a team its page asks of that box, keeps apart what is typed there, and knows its places without it', async () => {
  const b = await at('/in/3/find')
  expect([b.api, b.root, b.keptUnder('1-abc')]).toEqual(['/api/v1/in/3', '/in/3', '1-abc-in-3'])
  expect(['/in/3/find', '/in/3', '/find'].map(b.within)).toEqual(['/find', '/', '/find'])
})

test('in one’s own box nothing is added', async () => {
  const b = await at('/find')
  expect([b.api, b.root, b.keptUnder('1-abc'), b.within('/find')]).toEqual(['/api/v1', '', '1-abc', '/find'])
})
