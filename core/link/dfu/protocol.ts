import type { LinkProtocol } from '../drive/protocol'
import { usbControlMs } from '../usb'
import { dfuDriver } from './driver'

/** A block of update mode, and the status that is asked after it twice. */
const blockBytes = 1024
/** Manifestation: the unit tries what it was given, for the time that it names itself (DFU 1.1, A.1, A.2.3), ms. */
const manifestMs = 40

/** Update mode over USB. */
export const dfuProtocol: LinkProtocol<'dfu'> = {
  over: 'usb',
  open: dfuDriver,
  says: () => 'USB update mode (DFU 1.1)',
  can: { verify: () => 'read-back', erasesFirst: () => false },
  times: {
    // The block, and its status asked twice, six bytes each.
    writeMs: (_, bytes) => Math.ceil(bytes / blockBytes) * (usbControlMs(blockBytes) + 2 * usbControlMs(6)),
    tailMs: () => manifestMs,
    pageMs: () => 20,
  },
  trace: { name: 'USB update mode' },
}
