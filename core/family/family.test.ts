import { demoFamilies, demoFamilyList, fogSignalFamily } from '@bench-wake/demo'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import { isProblem } from '../kernel'
import {
  applicationRegions,
  beginFamily,
  checkFamily,
  compareProfiles,
  componentOf,
  componentsOn,
  copyFamily,
  fillTemplate,
  readFamily,
  readTemplate,
  sharedClaims,
  slotsOf,
} from '.'

/* eslint-disable @typescript-eslint/no-explicit-any -- documents are changed by member, as an editor does */
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
  it('has an order of power that leads to where each way in begins', () => {
    // A key that the order has switched on cannot be switched on once more by the entry.
    expect(refusedAt(changed('powerOrder.leads', 'off'))).toBe('entry.0.power.begins')
    for (const { entry, powerOrder } of demoFamilyList) {
      expect(powerOrder?.leads).toBeDefined()
      for (const { power } of entry) expect(power?.begins).toBe(powerOrder?.leads)
    }
  })
  it('is read with its addresses as numbers', () => {
    const [application] = applicationRegions(componentOf(fogSignalFamily))
    expect(application).toMatchObject({ address: 0x0800_8000, length: 0x4_0000, sectorBytes: 4096 })
  })
  it.each([
    ['components.0.memory.regions.0.address', 134217728],
    ['components.0.memory.regions.1.address', '0x123456789'],
    ['hardware.deviceIdentifier', ''],
    ['id', 'Fog Signal'],
    ['links.0.line.baudRate', 0],
    ['links.0.drive.speaks', 'telepathy'],
    ['links.0.drive.operations.write.steps.0.text', 7],
    ['stages.write', undefined],
    ['power.floorVolts', 16],
    ['components.0.identity.address', '0x08000000'],
    // The order of power leads to where the entry begins, and nothing else switches the unit (common practice).
    ['entry.1.power.begins', 'off'],
    ['power.measure.behind', 'horn-off'],
    ['formatVersion', 3],
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

describe('the ten demo families', () => {
  // PRACTICE A3–A5, B7–B11: each profile exercises something another does not.
  it('are told by label, by menu page, by the chip’s marking and over a link', () => {
    const told = new Set(
      demoFamilyList.flatMap(({ hardware }) => hardware.revisions.map(({ identifiedBy }) => identifiedBy.by)),
    )
    expect([...told]).toEqual(expect.arrayContaining(['label', 'menu', 'chip-marking', 'link']))
    expect(demoFamilyList).toHaveLength(10)
  })
  it('count their versions in every way there is', () => {
    const schemes = new Set(
      demoFamilyList.flatMap(({ components }) => components.map(({ version }) => version.scheme)),
    )
    expect([...schemes].sort()).toEqual(['date', 'decimal', 'dotted', 'lettered', 'line', 'opaque', 'semver'])
  })
  it('have processors on one model only, six joints in order, a question, options, one serial, a card, a stick', () => {
    const by = (id: string) => demoFamilyList.find((family) => family.id === id)!
    expect(componentsOn(by('station-inverter'), 'LI-30').map(({ id }) => id)).toEqual(['power'])
    expect(componentsOn(by('station-inverter'), 'LI-50').map(({ id }) => id)).toEqual(['power', 'panel'])
    expect(by('boat-davit').components.map(({ id }) => id)).toEqual(
      [0, 1, 2, 3, 4, 5].map((joint) => `joint-${joint}`),
    )
    expect(by('marine-radio').questions).toHaveLength(1)
    expect(by('mains-relay').components[0]!.options!.length).toBeGreaterThan(1)
    expect(by('beacon-receiver').updates.issuedPerSerial).toBe(true)
    const media = demoFamilyList.flatMap(({ links }) =>
      links.flatMap((link) => (link.kind === 'media' ? [link.medium!.name] : [])),
    )
    expect(media).toEqual(expect.arrayContaining(['memory card', 'USB stick']))
    expect(by('signal-desk').links.map(({ kind }) => kind)).toContain('chip')
  })
})

describe('a profile to begin a new kind from', () => {
  it('lacks what only its manual knows, and nothing else', () => {
    const { faults } = checkFamily(beginFamily())
    expect(faults.map(({ at }) => at).sort()).toEqual(['hardware.deviceIdentifier', 'id', 'name', 'summary'])
  })
  it('reads when these are filled in', () => {
    const begun = beginFamily()
    begun.hardware.deviceIdentifier = 'TG-4'
    const named = { ...begun, id: 'tide-gate', name: 'Tide gate', summary: 'Opens a gate.' }
    expect(checkFamily(named).faults).toEqual([])
  })
})

describe('two revisions of a profile', () => {
  it('differ at named places, an inserted line being one change', () => {
    const after = structuredClone(demoFamilies[0]!)
    after.power = { ...after.power, floorVolts: 11.8 }
    after.snapshot = [{ field: 'lamp', label: 'Lamp', change: 'may' }, ...after.snapshot]
    delete after.advisories
    expect(compareProfiles(demoFamilies[0], after).map(({ at }) => at)).toEqual(
      expect.arrayContaining(['power.floorVolts', 'snapshot.lamp', 'advisories']),
    )
    expect(compareProfiles(demoFamilies[0], after)).toHaveLength(3)
    expect(compareProfiles(after, after)).toEqual([])
  })
  it('a changed order is told as such', () => {
    const after = structuredClone(demoFamilies[0]!)
    after.snapshot = [...after.snapshot].reverse()
    expect(compareProfiles(demoFamilies[0], after).map(({ at }) => at)).toEqual(['snapshot.order'])
  })
})

describe('a profile with faults', () => {
  it('lists every one with its place, for an editor to point at', () => {
    const document = structuredClone(demoFamilies[0]!) as unknown as {
      snapshot: { field: string }[]
      advisories: { component: string }[]
      power: { floorVolts: number }
    }
    document.snapshot[0]!.field = 'version.panel'
    document.advisories[0]!.component = 'panel'
    document.power.floorVolts = 99
    expect(checkFamily(document).faults.map(({ at }) => at)).toEqual(
      expect.arrayContaining(['snapshot.0.field', 'advisories.0.component', 'power.floorVolts']),
    )
  })
  it('never throws, whatever the document', () => {
    fc.assert(
      fc.property(fc.jsonValue(), (value) => {
        expect(checkFamily(value).family).toBeNull()
      }),
      { numRuns: 200 },
    )
  })
})

// Said of other equipment, a known fault or a "brought up before it was sold" is a warning or an all-clear that nobody gave (PRACTICE A2).
describe('a profile copied from another', () => {
  const own = demoFamilies.find(({ id }) => id === 'buoy-battery')!
  it('leaves out what is known of the other’s units, and says so', () => {
    expect(own.advisories?.length ?? own.factory?.length).toBeGreaterThan(0)
    const { document, leftOut } = copyFamily(own)
    expect(document).not.toHaveProperty('advisories')
    expect(document).not.toHaveProperty('factory')
    expect(JSON.stringify(document)).not.toMatch(/serials|batches/)
    expect(leftOut.length).toBe([own.advisories, own.factory].filter((list) => list?.length).length)
    expect(document).toMatchObject({ id: `${own.id}-copy`, revision: 1, links: own.links })
    expect(checkFamily(document).faults).toEqual([])
  })
  it('has nothing to say where nothing is left out, and takes nothing from the one it is made of', () => {
    const { advisories: _advisories, factory: _factory, ...bare } = own
    expect(copyFamily(bare).leftOut).toEqual([])
    const before = structuredClone(own)
    copyFamily(own)
    expect(own).toEqual(before)
  })
})

// PRACTICE A5, B2, common practice: nobody can tell an image of two profiles apart that read the same mark at the same place.
describe('two profiles that claim the same images', () => {
  const fog = fogSignalFamily
  const copied = (change: (document: Record<string, any>) => void = () => {}) => {
    const { document } = copyFamily(structuredClone(demoFamilies[0]!) as never)
    change(document as never)
    return readFamily(document)
  }
  const idsOf = (family: typeof fog, others: readonly (typeof fog)[]) =>
    sharedClaims(family, others).map((claim) => [claim.component, claim.family.id, claim.otherComponent])
  it('are named, component by component: a copy that was not changed is one', () => {
    expect(idsOf(copied(), [fog])).toEqual([['main', 'fog-signal', 'main']])
    // One mark that begins like the other is found in its place too.
    expect(
      idsOf(
        copied(
          (document) =>
            (document['components'][0].identity!.magic = fog.components[0]!.identity!.magic.slice(0, 2)),
        ),
        [fog],
      ),
    ).toHaveLength(1)
  })
  it('are told apart by another mark, another place, or a device identifier in both blocks', () => {
    const magic = 'ZZ99'
    expect(
      idsOf(
        copied((document) => (document['components'][0].identity.magic = magic)),
        [fog],
      ),
    ).toEqual([])
    const elsewhere = structuredClone(fog)
    elsewhere.components[0]!.identity!.address! += 4
    expect(idsOf(copied(), [elsewhere])).toEqual([])
    const device = copied((document) => (document['hardware'].deviceIdentifier = 'ANOTHER-1'))
    expect(idsOf(device, [fog])).toEqual([])
    // Where one of the blocks does not hold it, nothing tells them apart.
    const silent = structuredClone(device)
    silent.components[0]!.identity!.fields = silent.components[0]!.identity!.fields.filter(
      ({ field }) => field !== 'deviceIdentifier',
    )
    expect(idsOf(silent, [fog])).toHaveLength(1)
  })
  it('is never said of a profile and itself, nor of any two of the demo', () => {
    for (const family of demoFamilyList) expect(idsOf(family, demoFamilyList), family.id).toEqual([])
  })
})
