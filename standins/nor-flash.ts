import type { Region } from '@bench-wake/core/family'
import type { Clock } from '@bench-wake/core/kernel'
import type { UnitPower } from './unit-power'

/**
 * NOR flash as the parts behave (JEDEC JESD68.01, Common Flash Interface, and every maker's sheet): erasing sets
 * a whole sector to ones, programming can only clear bits. A byte programmed without an erase before it becomes
 * the AND of old and new.
 */
export interface NorFlash {
  readonly address: number
  readonly bytes: Uint8Array
  /** Erases the sectors that the range touches, each in its time. */
  erase(
    address: number,
    length: number,
    onSector: (done: number, total: number) => Promise<void>,
  ): Promise<void>
  /** Programs bytes page by page. Throws RangeError outside the region. */
  program(address: number, data: Uint8Array): Promise<void>
}

/** What a memory draws on while it works. */
type Feed = Pick<UnitPower, 'on' | 'erases' | 'programs'>

export function norFlash(region: Region, clock: Clock, bytes: Uint8Array, power?: Feed): NorFlash {
  const {
    address: base,
    sectorBytes = 4096,
    pageBytes = 256,
    eraseMsPerSector = 0,
    programMsPerPage = 0,
  } = region
  const inside = (address: number, length: number) => {
    if (address < base || address + length > base + bytes.length) throw new RangeError('outside the flash')
  }
  return {
    address: base,
    bytes,
    async erase(address, length, onSector) {
      inside(address, length)
      const first = Math.floor((address - base) / sectorBytes)
      const behind = Math.ceil((address - base + length) / sectorBytes)
      power?.erases(true)
      for (let sector = first; sector < behind; sector++) {
        await clock.sleep(eraseMsPerSector)
        if (power?.on === false) break
        bytes.fill(0xff, sector * sectorBytes, (sector + 1) * sectorBytes)
        await onSector(sector - first + 1, behind - first)
      }
      power?.erases(false)
    },
    async program(address, data) {
      inside(address, data.length)
      for (let at = 0; at < data.length; at += pageBytes) {
        const page = data.subarray(at, at + pageBytes)
        await clock.sleep(programMsPerPage)
        if (power?.on === false) return
        const place = address - base + at
        for (let index = 0; index < page.length; index++) bytes[place + index]! &= page[index]!
        power?.programs(page.length)
      }
    },
  }
}
