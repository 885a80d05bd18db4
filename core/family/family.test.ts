import { demoFamilies, fogSignalFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isProblem } from '../kernel'
import { applicationRegions, componentOf, fillTemplate, readFamily, readTemplate, slotsOf } from '.'

/** The demo profile with one place changed, by its path. */
function changed(path: string, value: unknown): unknown {
  const document = structuredClone(demoFamilies[0]!) as Record<string, unknown>
  const keys = path.split('.')
  const last = keys.pop()!
  const holder = keys.reduce<Record<string, unknown>>(
    (at, key) => at[key] as Record<string, unknown>,
    document,
  )
  if (value === undefined) delete holder[last]
  else holder[last] = value
  return document
}

function refusedAt(document: unknown): string | undefined {
  try {
    readFamily(document)
  } catch (error) {
    if (isProblem(error, 'family-profile')) return error.facts.place?.at
    throw error
  }
  return undefined
}

describe('a family profile', () => {
  it('is read with its addresses as numbers', () => {
    const [application] = applicationRegions(componentOf(fogSignalFamily))
    expect(application).toMatchObject({ address: 0x0800_8000, length: 0x4_0000, sectorBytes: 4096 })
  })
  it.each([
    ['components.0.memory.regions.0.address', 134217728],
    ['components.0.memory.regions.1.address', '0x123456789'],
    ['hardware.deviceIdentifier', ''],
    ['id', 'Fog Signal'],
    ['links.0.settings.baudRate', 0],
    ['links.0.loader.protocol', 'telepathy'],
    ['stages.write', undefined],
    ['power.floorVolts', 16],
    ['components.0.identity.address', '0x08000000'],
    ['links.0.loader.checksum.reads', 'crc'],
  ])('is refused at %s when that is %s', (path, value) => {
    expect(refusedAt(changed(path, value))).toBe(path)
  })
  it('is refused when regions overlap or names are used twice', () => {
    expect(refusedAt(changed('components.0.memory.regions.1.address', '0x08007000'))).toBe(
      'components.0.memory.regions.1',
    )
    const document = structuredClone(demoFamilies[0]!)
    document.entry = []
    expect(refusedAt(document)).toBe('entry')
  })
  it('names its components when another is asked for', () => {
    expect(() => componentOf(fogSignalFamily, 'panel')).toThrow(/no component "panel" \(expected main\)/)
  })
})

describe('texts with slots', () => {
  it('are filled and read back', () => {
    expect(fillTemplate('erase {address:hex8} {length:hex8}', { address: 0x08008000, length: 0x40000 })).toBe(
      'erase 08008000 00040000',
    )
    expect(readTemplate('sector {done}/{total}', 'sector 3/64')).toEqual({ done: '3', total: '64' })
    expect(slotsOf('crc {crc32}')).toEqual(['crc32'])
  })
  it('read a padded table as well as a bare one, and nothing else', () => {
    expect(readTemplate('main {value}', '  main      2.41 ')).toEqual({ value: '2.41' })
    expect(readTemplate('horn {value}', 'horn 2 blasts every 60 s')).toEqual({ value: '2 blasts every 60 s' })
    expect(readTemplate('main {value}', 'mains 2.41')).toBeNull()
    expect(readTemplate('main {value}', 'main')).toBeNull()
    expect(readTemplate('ok', 'ok then')).toBeNull()
  })
  it('give back any value that was put in', () => {
    const word = fc.stringMatching(/^[a-z0-9.]{1,12}$/)
    fc.assert(
      fc.property(word, word, (a, b) => {
        expect(readTemplate('x {a} / {b} end', fillTemplate('x {a} / {b} end', { a, b }))).toEqual({ a, b })
      }),
    )
  })
  it('say which value is missing', () => {
    expect(() => fillTemplate('load {address}', {})).toThrow(/\{address\}/)
  })
})
