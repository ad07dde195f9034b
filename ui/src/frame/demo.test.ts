import { describe, expect, it } from 'vitest'
import { addressAs, demoAs, firstOf } from './demo'

describe('the people of the demo', () => {
  it('are each at home at a name of this machine', () => {
    expect(addressAs('jonas', { protocol: 'http:', hostname: '127.0.0.1', port: '8080' })).toBe(
      'http://jonas.localhost:8080/',
    )
    expect(addressAs('priya', { protocol: 'http:', hostname: 'jonas.localhost', port: '8080' })).toBe(
      'http://priya.localhost:8080/',
    )
    expect(addressAs('jonas', { protocol: 'https:', hostname: 'localhost', port: '' })).toBe('https://jonas.localhost/')
    expect(addressAs('jonas', { protocol: 'http:', hostname: '192.168.1.4', port: '8080' })).toBe('')
    expect(demoAs('jonas.localhost')).toBe('jonas')
    expect(demoAs('localhost')).toBe('')
    expect(firstOf('Jonas Reyland')).toBe('jonas')
  })
})
