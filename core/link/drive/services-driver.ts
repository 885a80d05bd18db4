import { pageLine, type DriveOf, type Family, type FamilyLink } from '../../family'
import { hexNumber, isProblem, type Clock } from '../../kernel'
import { slcanPort } from '../can'
import { isoTp, type Transport } from '../isotp'
import { kwpTransport } from '../kwp'
import type { Port } from '../port'
import { udsClient, udsLoader, udsTimingOf, type FaultCode } from '../uds'
import { shownBytes } from './shown'
import type { LinkDriver } from './link-driver'

/** Our own address on the single-wire line: a tester's (ISO 14230-2, table of addresses). */
const testerAddress = 0xf1

/** A fault code as it is written: three bytes in hexadecimal. */
export const faultText = (codes: readonly FaultCode[]): string =>
  codes.length === 0 ? 'none' : codes.map(({ code }) => hexNumber(code, 6)).join(', ')

function servicesDriver(
  transport: Transport,
  clock: Clock,
  family: Family,
  drive: DriveOf<'uds'> | DriveOf<'kwp'>,
  join: () => Promise<void>,
  carrier: Pick<LinkDriver, 'open' | 'close'>,
  tellAll?: (message: Uint8Array) => Promise<void>,
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
  return {
    ...carrier,
    loader: udsLoader(transport, clock, drive, page, join, tellAll),
    page: async () => ({ lines: await page(), inBootloader: false }),
    probeBootloader: async () => ({ bootloader: null }),
    async readData(identifier) {
      await join()
      return unit.readData(identifier)
    },
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

/** A controller on the vehicle bus, behind a CAN adapter on a serial line. */
export function canDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  drive: DriveOf<'uds'>,
): LinkDriver {
  const bus = slcanPort(port, clock)
  const { requestId, answerId, extended, padding, functionalId } = drive
  const wide = {
    ...(extended === undefined ? {} : { extended }),
    ...(padding === undefined ? {} : { padding }),
  }
  const transport = isoTp(bus, clock, { sendId: requestId, receiveId: answerId, ...wide })
  // To all of them a message is one frame (ISO 15765-2, 6.3): nobody could give leave for a second.
  const all =
    functionalId === undefined
      ? null
      : isoTp(bus, clock, { sendId: functionalId, receiveId: answerId, ...wide })
  const carrier: Pick<LinkDriver, 'open' | 'close'> = {
    async open() {
      await port.open(link.line!)
      await bus.join(drive.bitsPerSecond)
    },
    async close() {
      // What cannot be said any more because the cable is off is not needed any more either.
      await bus.leave().catch(() => {})
      await port.close()
    },
  }
  return servicesDriver(
    transport,
    clock,
    family,
    drive,
    async () => {},
    carrier,
    all ? (message) => all.send(message) : undefined,
  )
}

/** A controller on the single-wire line. It is woken before each act: it falls asleep after five seconds. */
export function singleLineDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  drive: DriveOf<'kwp'>,
): LinkDriver {
  const transport = kwpTransport(port, clock, {
    target: drive.target,
    source: testerAddress,
    wake: drive.wake,
  })
  return servicesDriver(transport, clock, family, drive, () => transport.wake(), {
    open: () => port.open(link.line!),
    close: () => port.close(),
  })
}
