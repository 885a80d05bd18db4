import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { controllersOf } from './controllers'
import { canDriver } from './driver'
import { canRows } from './trace-rows'
import { uploadTime } from './upload-time'

/** Bytes of one transfer message: a length of 0x402. */
const transferBytes = 0x402

/** Diagnostic services on the vehicle bus, behind a CAN adapter on a serial line. */
export const udsProtocol: LinkProtocol<'uds'> = {
  over: 'serial',
  open: (port, { clock, family, link, component }) =>
    canDriver(port, clock, family, link, link.drive, component),
  says: ({ drive }) =>
    `Diagnostic services on the vehicle bus at ${groupedNumber(drive.bitsPerSecond / 1000)} kbit/s`,
  can: { verify: () => 'checksum', keepsFaults: true },
  times: {
    writeMs: ({ drive, line }, bytes) =>
      uploadTime(bytes, {
        bitsPerSecond: drive.bitsPerSecond,
        messageBytes: transferBytes,
        adapter: line!,
        addressed: drive.addresses !== undefined,
      }).likelyMs,
    pageMs: ({ drive }) => controllersOf(drive).reduce((lines, own) => lines + own.drive.page.length, 0) * 15,
  },
  trace: {
    name: 'services on the vehicle bus',
    head: ({ drive: { requestId, answerId, addresses, controllers } }) => ({
      speaks: 'uds',
      requestId,
      answerId,
      ...(addresses && { addressed: true }),
      ...(controllers && {
        others: controllers.map((each) => ({ requestId: each.requestId, answerId: each.answerId })),
      }),
    }),
    rows: canRows,
  },
}
