import { demoFamily, firmwareOf } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { crc32 } from '../kernel'
import { closeness, sketchOf, type MemoryMap } from '.'
import { noise } from './noise.test-support'

/* How close two images are: blocks cut where the bytes say so (Muthitacharoen, Chen, Mazières, SOSP 2001, section 3.1). */

const at = (address: number, bytes: Uint8Array): MemoryMap => [{ address, bytes }]
const lengthsOf = (memory: MemoryMap) => [...sketchOf(memory)].filter((_, index) => index % 2 === 1)
const base = noise(200_000)

describe('the blocks of an image', () => {
  it('are of 256 to 4 096 bytes, a kilobyte and a quarter on the mean, and hold every byte once', () => {
    const lengths = lengthsOf(at(0, base))
    expect(lengths.reduce((sum, length) => sum + length, 0)).toBe(base.length)
    const whole = lengths.slice(0, -1)
    expect(Math.min(...whole)).toBeGreaterThanOrEqual(256)
    expect(Math.max(...whole)).toBeLessThanOrEqual(4096)
    // At least 256, then a boundary by chance of one in 1 024: the mean is near their sum, less what the longest cuts off.
    const mean = base.length / lengths.length
    expect(mean).toBeGreaterThan(1050)
    expect(mean).toBeLessThan(1450)
  })
  it('are digested one by one', () => {
    const sketch = sketchOf(at(0x8000, base))
    expect(sketch[0]).toBe(crc32(base.subarray(0, sketch[1])))
    expect(sketch[2]).toBe(crc32(base.subarray(sketch[1]!, sketch[1]! + sketch[3]!)))
  })
  it('of a short stretch are one, and begin anew with each segment', () => {
    expect(lengthsOf(at(0, noise(255)))).toEqual([255])
    expect(lengthsOf([...at(0, noise(100)), ...at(0x9000, noise(200))])).toEqual([100, 200])
    const one = noise(100)
    expect([...sketchOf([...at(0, noise(200)), ...at(0x9000, one)])].slice(2)).toEqual([crc32(one), 100])
  })
  it('are cut at 4 096 bytes where the bytes never say so', () => {
    // Two values in turn give the same sums for ever, and this pair of them no boundary.
    const turns = Uint8Array.from({ length: 10_000 }, (_, index) => (index & 1 ? 0x55 : 0xaa))
    expect(lengthsOf(at(0, turns))).toEqual([4096, 4096, 1808])
  })
  it('count for nothing where they hold one value only', () => {
    expect(lengthsOf(at(0, new Uint8Array(50_000).fill(0xff)))).toEqual([])
    expect(lengthsOf(at(0, new Uint8Array(300).fill(0xff).with(299, 0)))).toEqual([300])
    expect(lengthsOf([])).toEqual([])
  })
})

describe('how close two images are', () => {
  it('is the share of the smaller one that the other has too', () => {
    const small = Uint32Array.of(11, 100, 12, 300)
    const large = Uint32Array.of(9, 200, 11, 100, 13, 500)
    expect(closeness(small, large)).toBe(0.25)
    expect(closeness(large, small)).toBe(0.25)
    expect(closeness(small, small)).toBe(1)
    // A length that happens to be another’s digest is no block.
    expect(closeness(Uint32Array.of(100, 50), large)).toBe(0)
    expect(closeness(Uint32Array.of(), large)).toBe(0)
  })
  it('is 1 for the same bytes at another place, 0 for unrelated ones', () => {
    expect(closeness(sketchOf(at(0, base)), sketchOf(at(0x9000, base)))).toBe(1)
    expect(closeness(sketchOf(at(0, base)), sketchOf(at(0, noise(200_000, 99))))).toBeLessThan(0.01)
    expect(closeness(sketchOf(at(0, new Uint8Array(50_000))), sketchOf(at(0, base)))).toBe(0)
  })
  it('stays high when bytes are put in at the front', () => {
    const moved = new Uint8Array([...noise(37, 5), ...base])
    expect(closeness(sketchOf(at(0, base)), sketchOf(at(0, moved)))).toBeGreaterThan(0.95)
  })
  it('finds a look-alike build of one family', () => {
    const family = demoFamily('fog-signal')
    const form = {
      component: 'main',
      length: 0x20000,
      fields: { deviceIdentifier: 'FS-20', hardwareMajor: 3, version: '2.41' },
    }
    const first = firmwareOf(family, form)
    const next = firmwareOf(family, { ...form, fields: { ...form.fields, version: '2.42' }, like: first })
    expect(closeness(sketchOf(at(0, first)), sketchOf(at(0, next)))).toBeGreaterThan(0.7)
  })
})
