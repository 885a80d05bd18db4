import { Problem } from '../../kernel'
import { discardInput, readExactly, type Port } from '../port'
import {
  ACK,
  ASK_CRC,
  CAN,
  cancelledByPeer,
  decodeBlock,
  EOT,
  maxTalk,
  NAK,
  SOH,
  STX,
  type Check,
} from './xmodem'

/** How a file is received. */
export interface ReceiveForm {
  /** Takes a block's data; the block is acknowledged when the promise resolves. */
  onBlock(data: Uint8Array, at: number): Promise<void> | void
  /** Between two askings for CRC, 3 s (Forsberg 1988). */
  askEveryMs?: number
  /** Askings with C before falling back to NAK; 4 where nothing is said. */
  crcAskings?: number
  /** Longest silence inside a block, 1 s. */
  characterTimeoutMs?: number
  /** Longest silence between blocks before the last answer is given again, 10 s. */
  blockTimeoutMs?: number
  /** Faults in a row before giving up, 10. */
  tries?: number
  /** A block 0 went before (YMODEM): sent again, it was acknowledged and the acknowledgement got lost. */
  headerBefore?: boolean
}

/** How a receiving went. */
export interface Received {
  bytes: number
  blocks: number
  duplicates: number
  check: Check
}

/**
 * The receiving half: what a bootloader does. Asks with C, then NAK; acknowledges a repeated block without taking
 * it twice; answers the first EOT with NAK and the second with ACK; cancels when the numbers are out of step.
 * @throws Problem `xmodem-cancelled`, `xmodem-out-of-step`, `xmodem-no-sender`.
 */
export async function receiveXmodem(port: Port, form: ReceiveForm): Promise<Received> {
  const {
    askEveryMs = 3000,
    crcAskings = 4,
    characterTimeoutMs = 1000,
    blockTimeoutMs = 10_000,
    tries = 10,
  } = form
  const got: Received = { bytes: 0, blocks: 0, duplicates: 0, check: 'crc' }
  let ends = 0
  let cancels = 0
  let faults = 0
  let asked = 0
  /** Characters that begin no block, since the last one. */
  let passed = 0

  const ask = async () => {
    got.check = asked < crcAskings ? 'crc' : 'sum'
    asked++
    await port.write(Uint8Array.of(got.check === 'crc' ? ASK_CRC : NAK))
  }
  const fault = async () => {
    if (++faults > tries + crcAskings) throw noSender(port.name, got.bytes)
    await (got.blocks === 0 ? ask() : port.write(Uint8Array.of(NAK)))
  }

  await ask()
  for (;;) {
    const waitMs = got.blocks === 0 && got.check === 'crc' ? askEveryMs : blockTimeoutMs
    const head = (await port.read(1, waitMs))?.[0]
    cancels = head === CAN ? cancels + 1 : 0
    if (head === undefined) {
      await fault()
    } else if (++passed > maxTalk) {
      throw noSender(port.name, got.bytes, 'the unit talks and sends no block')
    } else if (head === EOT) {
      await port.write(Uint8Array.of(++ends === 1 ? NAK : ACK))
      if (ends === 2) return got
    } else if (head === CAN) {
      if (cancels === 2) throw cancelledByPeer(port.name, got.bytes)
    } else if (head === SOH || head === STX) {
      const size = head === STX ? 1024 : 128
      const body = await readExactly(port, size + (got.check === 'crc' ? 4 : 3), characterTimeoutMs)
      const block = body && decodeBlock(body, got.check)
      if (!block) {
        // Wait until the sender is done with it, or its tail would be taken for the next block's head.
        await discardInput(port, characterTimeoutMs)
        await fault()
        continue
      }
      ends = 0
      if (block.number === ((got.blocks + 1) & 255)) {
        try {
          await form.onBlock(block.data, got.bytes)
        } catch (error) {
          await port.write(Uint8Array.of(CAN, CAN))
          throw error
        }
        got.blocks++
        got.bytes += size
      } else if ((got.blocks > 0 || form.headerBefore) && block.number === (got.blocks & 255)) {
        got.duplicates++
      } else {
        await port.write(Uint8Array.of(CAN, CAN))
        throw outOfStep(port.name, got.blocks + 1, block.number, got.bytes)
      }
      faults = 0
      passed = 0
      // Behind a header that came again the sender waits to be asked once more.
      await port.write(got.blocks === 0 ? Uint8Array.of(ACK, ASK_CRC) : Uint8Array.of(ACK))
    }
  }
}

/** Nobody began to send. */
export function noSender(thing: string, offset: number, says = 'the sender fell silent'): Problem {
  return new Problem({
    kind: 'xmodem-no-sender',
    thing,
    place: { offset },
    says,
    remedy: 'Start the transfer again from its beginning.',
  })
}

function outOfStep(thing: string, expected: number, found: number, offset: number): Problem {
  return new Problem({
    kind: 'xmodem-out-of-step',
    thing,
    place: { offset },
    says: 'the block numbers are out of step',
    expected: `block ${expected & 255}`,
    found: `block ${found}`,
    remedy: 'Start the transfer again from its beginning.',
  })
}
