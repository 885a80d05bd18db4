import { readFamily } from '@bench-wake/core/family'
import { virtualClock } from '@bench-wake/core/kernel'
import type { LinkDriver } from '@bench-wake/core/link'
import { tideGateProfile } from '@bench-wake/testing/tide-gate-profile'
import { describe, expect, it } from 'vitest'
import { liveOf } from './live-link'

const family = readFamily(tideGateProfile)
const clock = virtualClock(async () => {})
const showing = (driver: Partial<LinkDriver>) => liveOf(driver as LinkDriver, family, clock).show!()

describe('what a unit shows for a log', () => {
  const lines = ['fw 1.3', 'level: 1.237 m', 'flow=12', 'nothing of a figure']
  it('goes by the profile’s name of a line, by what stands on the unit, and by that of its script', async () => {
    const shown = await showing({ live: async () => lines })
    expect(Object.fromEntries(shown)).toEqual({
      'version.main': '1.3',
      Firmware: '1.3',
      level: '1.237 m',
      flow: '12',
    })
  })
  it('is its page where it shows nothing else', async () => {
    const shown = await showing({ page: async () => ({ lines: ['fw 1.4'], inBootloader: false }) })
    expect(shown.get('version.main')).toBe('1.4')
  })
  it('has data identifiers only where the link has', async () => {
    expect(liveOf({} as LinkDriver, family, clock).ask).toBeUndefined()
    const readData = async (identifier: number) => Uint8Array.of(identifier & 255)
    expect(await liveOf({ readData } as LinkDriver, family, clock).ask!(0x2007)).toEqual(Uint8Array.of(7))
  })
})
