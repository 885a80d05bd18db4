import { copyFamily, drivenLink, readFamily } from '@bench-wake/core/family'
import { virtualClock } from '@bench-wake/core/kernel'
import { openLink } from '@bench-wake/core/link'
import { demoFamilies, demoStandIn, demoUnits } from '@bench-wake/demo'
import { expect, it } from 'vitest'
import { standInOf } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))

// A stand-in follows the profile's words and no demo family's name: a profile that was made from another practises as well.
it('a unit of a family made from another goes into its bootloader at the command of its own profile', async () => {
  const { document } = copyFamily(demoFamilies.find(({ id }) => id === 'fog-signal')!)
  const [way] = document.entry
  if (way?.kind !== 'command') throw new TypeError('the fog signal enters by command')
  const family = readFamily({ ...document, entry: [{ ...way, send: 'go down' }, ...document.entry.slice(1)] })
  const demo = demoUnits.find(({ id }) => id === 'fog-07')!
  const { hardware, flash, lines } = demoStandIn(demo)
  const state = { flash, usedAh: 0, inBootloader: false, lines }
  const unit = standInOf({ id: 'new', name: 'New', family, hardware, serial: demo.serial, state })
  const clock = virtualClock(turn)
  const driver = openLink(
    unit.connect(clock).channel,
    clock,
    family,
    drivenLink(family)!,
    family.components[0]!,
  )
  await driver.open()
  expect((await driver.probeBootloader()).bootloader).toBe(false)
  await expect(driver.enter!('update')).rejects.toThrow(/refused/)
  expect(state.inBootloader).toBe(false)
  await driver.enter!('go down')
  await clock.sleep(way.settleMs)
  expect((await driver.probeBootloader()).bootloader).toBe(true)
  expect(state.inBootloader).toBe(true)
  await driver.close()
})
