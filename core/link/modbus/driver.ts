import {
  applicationRegions,
  pageLine,
  type Component,
  type DriveOf,
  type Family,
  type FamilyLink,
} from '../../family'
import type { Clock } from '../../kernel'
import { modbusLoader, modbusUnit, statesOf } from './loader'
import type { Port } from '../port'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'

/** A unit on an RS-485 bus, by its registers. */
export function modbusDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  drive: DriveOf<'modbus'>,
  component: Component,
): LinkDriver {
  const asked = modbusUnit(port, clock, drive)
  const page = async () => {
    const lines: string[] = []
    for (const { field, register, count, as } of drive.page) {
      const words = await asked.read(register, count)
      const value = shownBytes(Uint8Array.from(words.flatMap((word) => [word >> 8, word & 255])), as)
      if (value !== null) lines.push(...pageLine(family, field, value))
    }
    return lines
  }
  const inLoader = async () => {
    const [state] = await asked.read(drive.registers.state, 1)
    return state !== statesOf(drive).firmware
  }
  const start = applicationRegions(component)[0]?.address ?? 0
  return {
    loader: modbusLoader(port, clock, drive, component, start, page),
    open: () => port.open(link.line!),
    close: () => port.close(),
    async page() {
      const inBootloader = await inLoader()
      return { lines: await page(), inBootloader }
    },
    probeBootloader: async () => ({ bootloader: await inLoader() }),
  }
}
