import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { exchangeMs } from '../spi'
import { usualPacketBytes } from '../swd'
import { eraseTypesOf, flashDriver } from './driver'
import { planErase, usualEraseMs } from './erase-plan'

/** Bytes of a page, and of one long read. */
const pageBytes = 256
const readBytes = 0x4000
const turn = (send: number, read = 0) => ({ send: new Uint8Array(send), read })

/** A memory chip by itself, on a clip or in the adapter's socket. */
export const flashProtocol: LinkProtocol<'spi-flash'> = {
  over: 'usb',
  open: (port, { clock, family, link, component }) => flashDriver(port, clock, family, link.drive, component),
  says: ({ drive }) => `Serial flash, the chip by itself, at ${groupedNumber(drive.hertz / 1000)} kHz`,
  can: { verify: () => 'read-back', readsChip: true, readsWhole: true },
  times: {
    /** A page is allowed, looked at, sent and asked for its end in three goes (flash-chip.ts). */
    writeMs({ drive: { hertz } }, bytes) {
      const form = { packetBytes: usualPacketBytes, hertz }
      const page =
        exchangeMs([turn(1), turn(1, 1)], form) +
        exchangeMs([turn(4 + pageBytes)], form) +
        exchangeMs([turn(1, 4)], form)
      return (bytes / pageBytes) * page
    },
    readMs: ({ drive: { hertz } }, bytes) =>
      (bytes / readBytes) * exchangeMs([turn(4, readBytes)], { packetBytes: usualPacketBytes, hertz }),
    eraseMs({ drive }, component, { address, length }) {
      if (!drive.erases) return null
      const from = address - (drive.base ?? 0)
      return planErase({ address: from, length }, eraseTypesOf(drive, component)).reduce(
        (ms, block) => ms + usualEraseMs(block),
        0,
      )
    },
    pageMs: () => 60,
  },
  trace: { name: 'debug adapter' },
}
