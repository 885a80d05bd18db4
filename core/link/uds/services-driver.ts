import { pageLine, type DriveOf, type Family } from '../../family'
import { hexNumber, isProblem, type Clock } from '../../kernel'
import type { Transport } from '../isotp'
import { udsClient, udsTimingOf, type FaultCode } from './client'
import { udsLoader } from './loader'
import { periodicData, type SendMode } from './periodic'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'
import type { Person } from '../person'

/** A fault code as it is written: three bytes in hexadecimal. */
export const faultText = (codes: readonly FaultCode[]): string =>
  codes.length === 0 ? 'none' : codes.map(({ code }) => hexNumber(code, 6)).join(', ')

/**
 * A unit that answers to the diagnostic services, whatever carries them.
 * @param join wakes it before each act, where it falls asleep.
 * @param tellAll a message that all controllers hear; absent where there is no such way.
 * @param frames bare frames of the data that it sends by itself, where they have an identifier of their own.
 */
export function servicesDriver(
  transport: Transport,
  clock: Clock,
  family: Family,
  drive: DriveOf<'uds'> | DriveOf<'kwp'>,
  join: () => Promise<void>,
  carrier: Pick<LinkDriver, 'open' | 'close'>,
  tellAll?: (message: Uint8Array) => Promise<void>,
  frames?: (timeoutMs: number) => Promise<Uint8Array | null>,
): LinkDriver {
  const unit = udsClient(transport, clock, udsTimingOf(drive))
  const page = async () => {
    await join()
    const lines: string[] = []
    for (const { field, identifier, faults, as } of drive.page) {
      try {
        const value = faults
          ? faultText(await unit.readFaults(0xff))
          : identifier === undefined
            ? null
            : shownBytes(await unit.readData(identifier), as)
        if (value !== null) lines.push(...pageLine(family, field, value))
      } catch (error) {
        // A boot without its program does not have every line.
        if (!isProblem(error, 'uds-refused')) throw error
      }
    }
    return lines
  }
  let person: Person | null = null
  return {
    ...carrier,
    withPerson(beside) {
      person = beside
    },
    loader: udsLoader(transport, clock, drive, page, join, tellAll, () => person),
    page: async () => ({ lines: await page(), inBootloader: false }),
    probeBootloader: async () => ({ bootloader: null }),
    async readData(identifier) {
      await join()
      return unit.readData(identifier)
    },
    ...('periodic' in drive &&
      drive.periodic && {
        sendData: (asked: readonly { identifier: number; rate: SendMode }[]) =>
          periodicData(unit, transport, clock, asked, frames),
      }),
    faults: {
      async read() {
        await join()
        return faultText(await unit.readFaults(0xff))
      },
      async clear() {
        await join()
        await unit.clearFaults()
      },
    },
  }
}
