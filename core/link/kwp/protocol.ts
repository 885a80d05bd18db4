import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { wireMs } from '../port'
import { singleLineDriver } from './driver'
import { kwpRows } from './trace-rows'

/** Bytes of one transfer message on the single wire, without service and number. */
const transferBytes = 0xff - 2

/** Diagnostic services on the single wire. */
export const kwpProtocol: LinkProtocol<'kwp'> = {
  over: 'serial',
  open: (port, { clock, family, link }) => singleLineDriver(port, clock, family, link, link.drive),
  says: ({ line }) => `Diagnostic services on the single wire at ${groupedNumber(line!.baudRate)} baud`,
  can: { verify: () => 'checksum', keepsFaults: true },
  times: {
    writeMs({ line }, bytes) {
      const messages = Math.ceil(bytes / transferBytes)
      // Head 4 and sum 1 around service and number; the answer of six bytes, and the turning round.
      return wireMs(bytes + messages * (7 + 6), line!) + messages * 3
    },
    // Waking: 300 ms of rest, the pattern, two questions.
    pageMs: ({ drive, line }) => 500 + drive.page.length * (wireMs(30, line!) + 10),
  },
  trace: { name: 'services on the single wire', rows: kwpRows },
}
