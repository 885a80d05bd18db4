import { pageLine, type DriveOf, type Family } from '../../family'
import { hexNumber, isProblem, type Clock } from '../../kernel'
import type { Transport } from '../isotp'
import { olderClient, olderWidths } from '../kwp/services'
import {
  udsClient,
  udsTimingOf,
  type FaultCode,
  type UdsClient,
  type UdsForm,
  type UdsTiming,
} from './client'
import { udsLoader } from './loader'
import { periodicData, type SendMode } from './periodic'
import { shownBytes } from '../drive/shown'
import type { LinkDriver } from '../drive/link-driver'
import type { Person } from '../person'

/** Fault codes as they are written, in hexadecimal: three bytes each, two by the older services. */
export const faultText = (codes: readonly FaultCode[], bytes: 2 | 3 = 3): string =>
  codes.length === 0 ? 'none' : codes.map(({ code }) => hexNumber(code, 2 * bytes)).join(', ')

/** The services as this controller has them. */
function clientOf(
  transport: Transport,
  clock: Clock,
  drive: DriveOf<'uds'> | DriveOf<'kwp'>,
  timing: UdsTiming = udsTimingOf(drive),
  form: UdsForm = {},
): UdsClient {
  if (drive.speaks === 'uds' || drive.services !== '14230') return udsClient(transport, clock, timing, form)
  const { widths, dataFormat, routineResults, transferBytes } = drive
  return olderClient(transport, clock, timing, {
    ...(widths && { widths }),
    ...(dataFormat === undefined ? {} : { dataFormat }),
    ...(routineResults && { routineResults }),
    ...(transferBytes === undefined ? {} : { transferBytes }),
  })
}

/** The bytes of a line of the page, by whichever service gives them; null for one that is no data. */
async function dataOf(
  unit: UdsClient,
  item: { identifier?: number; local?: number; identification?: number },
): Promise<Uint8Array | null> {
  const { identifier, local, identification } = item
  if (identifier !== undefined) return unit.readData(identifier)
  if (local !== undefined) return (await unit.readLocal?.(local)) ?? null
  if (identification !== undefined) return (await unit.identification?.(identification)) ?? null
  return null
}

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
  const isOlder = drive.speaks === 'kwp' && drive.services === '14230'
  const settings = isOlder ? { ...drive, widths: { ...olderWidths, ...drive.widths } } : drive
  const unit = clientOf(transport, clock, drive)
  const page = async () => {
    await join()
    const lines: string[] = []
    for (const item of drive.page) {
      const { field, as } = item
      try {
        const bytes = await dataOf(unit, item)
        const value = item.faults
          ? faultText(await unit.readFaults(0xff), unit.faultBytes)
          : bytes && shownBytes(bytes, as)
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
    loader: udsLoader(
      transport,
      clock,
      settings,
      page,
      join,
      tellAll,
      () => person,
      (timing, form) => clientOf(transport, clock, drive, timing, form),
    ),
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
        return faultText(await unit.readFaults(0xff), unit.faultBytes)
      },
      async clear() {
        await join()
        await unit.clearFaults()
      },
    },
  }
}
