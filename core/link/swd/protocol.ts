import { groupedNumber } from '../../kernel'
import type { LinkProtocol } from '../drive/protocol'
import { usbBulkMs } from '../usb'
import { blockWords, usualPacketBytes } from './dap-packets'
import { debugDriver } from './driver'
import { exchangesOf, stepsOfController } from './flash-steps'
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
      const {
        width,
        pageBytes,
        pieceBytes = pageBytes,
        ...acts
      } = drive.flashSteps ?? stepsOfController(drive.flash!, drive.eraseMs)
      const accesses = bytes / width
      const packets = Math.ceil(accesses / write)
      // Beside the words of the image a short exchange for each register that is set or asked, piece by piece.
      const asked = exchangesOf(acts.unlock) + exchangesOf(acts.program) + exchangesOf(acts.lock)
      const exchanges = (asked * bytes) / pieceBytes
      return (
        packets * (usbBulkMs(usualPacketBytes) + usbBulkMs(4)) +
        exchanges * 2 * usbBulkMs(16) +
        (accesses * accessBits * 1000) / drive.hertz
      )
    },
    // Into a buffer first, and only then the memory begins.
    programsMeanwhile: ({ drive }) =>
      !drive.flashSteps?.program.some((step) => step.do === 'data' && step.to !== undefined),
    pageMs: () => 60,
  },
  trace: { name: 'debug adapter' },
}
