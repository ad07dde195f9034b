import { expect, it } from 'vitest'
import sizes from '../../../internal/core/texting/testdata/sizes.json'
import { measure } from './texting'

it('counts as the core does', () => {
  for (const { name, text, repeat, ...size } of sizes)
    expect({ name, ...measure(text.repeat(repeat)) }).toEqual({ name, ...size })
})
