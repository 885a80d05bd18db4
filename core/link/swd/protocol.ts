import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { usbBulkMs } from '../usb'
import { blockWords, usualPacketBytes } from './dap-packets'
import { debugDriver } from './driver'
import { accessBits } from './serial-wire'

/** The processor's debug port, behind an adapter. */
export const debugProtocol: LinkProtocol<'debug'> = {
  over: 'usb',
  open: (port, { clock, family, link }) => debugDriver(port, clock, family, link.drive),
  says: ({ drive }) => `Serial wire at ${groupedNumber(drive.hertz / 1000)} kHz`,
  can: { verify: () => 'read-back', widthBits: 32 },
  times: {
    writeMs({ drive }, bytes) {
      const { write } = blockWords(usualPacketBytes)
      const accesses = bytes / drive.flash.width
      const packets = Math.ceil(accesses / write)
      // Beside the words of the image three short exchanges a page: its address, the start, the status.
      const exchanges = (3 * bytes) / drive.flash.pageBytes
      return (
        packets * (usbBulkMs(usualPacketBytes) + usbBulkMs(4)) +
        exchanges * 2 * usbBulkMs(16) +
        (accesses * accessBits * 1000) / drive.hertz
      )
    },
    programsMeanwhile: true,
    pageMs: () => 60,
  },
  trace: { name: 'debug adapter' },
}
