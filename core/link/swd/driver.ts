import { pageLine, type DriveOf, type Family } from '../../family'
import { isProblem, type Clock } from '../../kernel'
import type { DebugPort } from './debug-port'
import { debugLoader } from './loader'
import type { UsbPort } from '../usb'
import { adapterDriver } from '../drive/adapter-driver'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'

/** A unit on a debug adapter: what it says of itself is read from its memory. */
export function debugDriver(
  port: UsbPort,
  clock: Clock,
  family: Family,
  drive: DriveOf<'debug'>,
): LinkDriver {
  const pageOf = async (unit: DebugPort) => {
    const lines: string[] = []
    for (const { field, address, length, as } of drive.page) {
      try {
        const from = Math.floor(address / 4) * 4
        const bytes = await unit.readBlock(from, Math.ceil((address + length - from) / 4) * 4)
        const value = shownBytes(bytes.subarray(address - from, address - from + length), as)
        if (value !== null) lines.push(...pageLine(family, field, value))
      } catch (error) {
        // A unit that keeps its memory from being read still tells what stands elsewhere.
        if (!isProblem(error, 'debug-fault')) throw error
      }
    }
    return lines
  }
  const loader = debugLoader(port, clock, drive, pageOf)
  return {
    ...adapterDriver(port, loader, () => loader.identify()),
    // Halted or running, the port answers alike.
    probeBootloader: async () => ({ bootloader: null }),
  }
}
