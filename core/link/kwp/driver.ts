import type { DriveOf, Family, FamilyLink } from '../../family'
import type { Clock } from '../../kernel'
import type { LinkDriver } from '../drive/link-driver'
import type { Port } from '../port'
import { servicesDriver } from '../uds/services-driver'
import { kwpTransport } from './client'

/** Our own address on the single-wire line: a tester's (ISO 14230-2, table of addresses). */
const testerAddress = 0xf1

/** A controller on the single-wire line. It is woken before each act: it falls asleep after five seconds. */
export function singleLineDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  drive: DriveOf<'kwp'>,
): LinkDriver {
  const { target, source = testerAddress, wake, addressed, lengthIn, timing } = drive
  const transport = kwpTransport(port, clock, {
    target,
    source,
    wake,
    // What the profile says of its messages outweighs its key bytes.
    ...(addressed === undefined && lengthIn === undefined
      ? {}
      : { shape: { addresses: addressed ?? true, length: lengthIn ?? 'either' } }),
    ...(timing ? { timing } : {}),
  })
  return servicesDriver(transport, clock, family, drive, () => transport.wake(), {
    open: () => port.open(link.line!),
    close: () => port.close(),
  })
}
