import { expect, it } from 'vitest'

it('bytes that differ in one, in length or in kind are still not equal', () => {
  const whole = new Uint8Array(70_000).fill(7)
  const changed = whole.slice()
  changed[69_999] = 8
  expect({ bytes: whole }).toEqual({ bytes: whole.slice() })
  expect({ bytes: changed }).not.toEqual({ bytes: whole })
  expect(whole.subarray(1)).not.toEqual(whole)
  expect(Buffer.from(whole)).not.toStrictEqual(whole)
})
