import { discardInput, readExactly, type Port } from '../port'
import {
  ACK,
  ASK_CRC,
  CAN,
  cancelledByPeer,
  decodeBlock,
  EOT,
  NAK,
  noSender,
  receiveXmodem,
  SOH,
  STX,
  type Check,
} from '../xmodem'
import { decodeHeader, type FileHeader } from './header'

/** How a batch is received. */
export interface BatchForm {
  /** A file begins. Throwing refuses it, and with it the batch. */
  onFile(file: FileHeader): Promise<void> | void
  /** Takes data of the file that is open, without the padding where its size is known. */
  onData(data: Uint8Array, at: number): Promise<void> | void
  askEveryMs?: number
  crcAskings?: number
  characterTimeoutMs?: number
  blockTimeoutMs?: number
  tries?: number
}

/**
 * The receiving half of a YMODEM batch: what a bootloader does.
 * @returns the files in their order.
 * @throws the Problems of `receiveXmodem`.
 */
export async function receiveYmodem(port: Port, form: BatchForm): Promise<FileHeader[]> {
  const files: FileHeader[] = []
  for (;;) {
    const header = await receiveHeader(port, form)
    await port.write(Uint8Array.of(ACK))
    if (!header) return files
    try {
      await form.onFile(header)
    } catch (error) {
      await port.write(Uint8Array.of(CAN, CAN))
      throw error
    }
    files.push(header)
    const { size = Infinity } = header
    await receiveXmodem(port, {
      ...form,
      headerBefore: true,
      onBlock: async (data, at) => {
        if (at < size) await form.onData(data.subarray(0, Math.min(data.length, size - at)), at)
      },
    })
  }
}

/** Asks until block 0 comes whole. */
async function receiveHeader(port: Port, form: BatchForm): Promise<FileHeader | null> {
  const { askEveryMs = 3000, crcAskings = 4, characterTimeoutMs = 1000, tries = 10 } = form
  let cancels = 0
  for (let asked = 0; asked < tries + crcAskings; asked++) {
    const check: Check = asked < crcAskings ? 'crc' : 'sum'
    await port.write(Uint8Array.of(check === 'crc' ? ASK_CRC : NAK))
    for (;;) {
      const head = (await port.read(1, askEveryMs))?.[0]
      if (head === undefined) break
      cancels = head === CAN ? cancels + 1 : 0
      if (cancels === 2) throw cancelledByPeer(port.name, 0)
      // The end of the file before, said again: its acknowledgement got lost.
      if (head === EOT) await port.write(Uint8Array.of(ACK))
      if (head !== SOH && head !== STX) continue
      const size = head === STX ? 1024 : 128
      const body = await readExactly(port, size + (check === 'crc' ? 4 : 3), characterTimeoutMs)
      const block = body && decodeBlock(body, check)
      if (block?.number === 0) return decodeHeader(block.data)
      await discardInput(port, characterTimeoutMs)
      break
    }
  }
  throw noSender(port.name, 0)
}
