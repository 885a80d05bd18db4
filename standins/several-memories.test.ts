/* eslint-disable @typescript-eslint/no-explicit-any -- profiles are changed by member */
import { checkFamily, componentOf, drivenLink, readFamily } from '@bench-wake/core/family'
import { virtualClock } from '@bench-wake/core/kernel'
import { isEqual, openLink } from '@bench-wake/core/link'
import { demoFamilies } from '@bench-wake/demo'
import { expect, it } from 'vitest'
import { memoryBytes, standInOf, unitMemoryOf } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))

/** The tide logger with a second memory, which has an alternate setting of its own. */
const withRadio = (alternates: unknown): any => {
  const document: any = structuredClone(demoFamilies.find(({ id }) => id === 'tide-logger'))
  const [first] = document.components
  document.components.push({ ...structuredClone(first), id: 'radio', name: 'Radio firmware' })
  document.links[0].drive.alternates = alternates
  return document
}

it('each component goes into the alternate setting that its profile names', async () => {
  const document = withRadio([
    { component: 'logger', named: 'Logger memory' },
    { component: 'radio', alternate: 1 },
  ])
  expect(checkFamily(document).faults).toEqual([])
  const family = readFamily(document)
  const flash = new Uint8Array(memoryBytes(family)).fill(0xff)
  const state = { flash, usedAh: 0, inBootloader: true, lines: {} }
  const unit = standInOf({ id: 'x', name: 'x', family, hardware: '2', serial: 'X-1', state })
  const clock = virtualClock(turn)
  for (const [index, id] of ['radio', 'logger'].entries()) {
    const image = Uint8Array.from({ length: 5000 }, (_, at) => (at * (7 + index)) & 255)
    const driver = openLink(
      unit.connect(clock).channel,
      clock,
      family,
      drivenLink(family)!,
      componentOf(family, id),
    )
    await driver.open()
    await driver.loader.attach()
    await driver.loader.write(0x2000, image, () => {}, { raised: false })
    expect(isEqual(await driver.loader.verify(0x2000, image))).toBe(true)
    await driver.close()
    expect(unitMemoryOf(family, flash, id).subarray(0, 5000)).toEqual(image)
    // The other one was left alone, or is as it was written before.
    expect(unitMemoryOf(family, flash, 'logger')[1]).toBe(index === 0 ? 0xff : 8)
  }
})

it.each([
  [[{ component: 'logger' }], 'links.0.drive.alternates.0'],
  [[{ component: 'logger', alternate: 0, named: 'Logger' }], 'links.0.drive.alternates.0'],
  [[{ component: 'engine', alternate: 0 }], 'links.0.drive.alternates.0.component'],
])('a profile that says %j is refused at %s', (alternates, path) => {
  expect(checkFamily(withRadio(alternates)).faults.map(({ at }) => at)).toContain(path)
})
it('a line of the page stands in one place', () => {
  const document = withRadio([{ component: 'logger', alternate: 0 }])
  document.links[0].drive.page[0].alternate = 0
  expect(checkFamily(document).faults.map(({ at }) => at)).toContain('links.0.drive.page.0')
})
