import { groupedNumber } from '../../kernel'
import type { LinkProtocol, Over } from '../drive/protocol'
import { wireMs } from '../port'
import { kwpTimes } from './client'
import { singleLineDriver } from './driver'
import { kwpRows } from './trace-rows'

/** Bytes of one transfer message without its service, and without its number where it has one. */
function blockBytes({ drive }: Over<'kwp'>): number {
  const head = drive.services === '14230' ? 1 : 2
  return Math.min(drive.transferBytes ?? Infinity, (drive.lengthIn === 'format' ? 63 : 255) - head)
}

/** Diagnostic services on the single wire. */
export const kwpProtocol: LinkProtocol<'kwp'> = {
  over: 'serial',
  open: (port, { clock, family, link }) => singleLineDriver(port, clock, family, link, link.drive),
  says: ({ line }) => `Diagnostic services on the single wire at ${groupedNumber(line!.baudRate)} baud`,
  can: { verify: () => 'checksum', keepsFaults: true },
  times: {
    writeMs(link, bytes) {
      const { drive, line } = link
      const messages = Math.ceil(bytes / blockBytes(link))
      // Head 4 and sum 1 around service and number; the answer of six bytes, and the turning round.
      const wire = wireMs(bytes + messages * (7 + 6), line!)
      if (drive.timing !== 'standard') return wire + messages * 3
      // P4 between the tester's bytes, P2 before an answer and P3 after it (ISO 14230-2, clause 6).
      return wire + bytes * kwpTimes.byteGap + messages * (7 * kwpTimes.byteGap + kwpTimes.rest + 3)
    },
    // Waking: 300 ms of rest, the pattern, two questions.
    pageMs: ({ drive, line }) => 500 + drive.page.length * (wireMs(30, line!) + 10),
  },
  trace: { name: 'services on the single wire', rows: kwpRows },
}
