import type { LinkProtocol } from '../drive/protocol'
import { exchangeMs } from '../spi'
import { usualPacketBytes } from '../swd'
import { inSystemDriver } from './driver'
import { portClockText } from './loader'
import { portHertz } from './programmer'

/** Instructions that go in one exchange, each for one byte. */
const atOnce = 64

/** A processor without a bootloader, on six lines. */
export const inSystemProtocol: LinkProtocol<'in-system'> = {
  over: 'usb',
  open: (port, { clock, family, link, component }) =>
    inSystemDriver(port, clock, family, link.drive, component),
  says: ({ drive }) => `Six-line port at ${portClockText(drive)}`,
  can: { verify: () => 'read-back', readsChip: true, erasesWhole: true },
  times: {
    /** Each byte is an instruction of its own, of four bytes; the adapter takes them by packets. */
    writeMs({ drive }, bytes) {
      const form = { packetBytes: usualPacketBytes, hertz: portHertz(drive) }
      const turns = Array.from({ length: atOnce }, () => ({ send: new Uint8Array(3), read: 1 }))
      return (bytes / atOnce) * exchangeMs(turns, form, false)
    },
    // The whole memory goes at once.
    eraseMs: ({ drive }) => drive.eraseMs,
    pageMs: () => 150,
  },
  trace: { name: 'debug adapter' },
}
