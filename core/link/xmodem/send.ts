import { Problem } from '../../kernel'
import { writeAbandoned, type Abandon, type Report } from '../loader'
import { discardInput, type Port } from '../port'
import { ACK, ASK_CRC, CAN, cancelledByPeer, encodeBlock, EOT, maxTalk, NAK, type Check } from './xmodem'

/** How a file is sent. */
export interface SendForm {
  /** Largest block: 128 or 1 024 data bytes. */
  blockBytes: 128 | 1024
  /** Fills the last block. */
  padByte: number
  /** Longest wait for the receiver's first character; 60 s where nothing is said (Forsberg 1988). */
  startTimeoutMs?: number
  /**
   * Longest wait for the answer to a block; 20 s where nothing is said. The receiver drives this protocol: it asks
   * again after 10 s. A sender that is less patient sends twice, and takes the second answer for the next block's.
   */
  answerTimeoutMs?: number
  /** How often a block is sent before giving up; 10 where nothing is said. */
  tries?: number
  /** How often in a row silence is borne before giving up; 3 where nothing is said: a unit without power stays silent. */
  silentTries?: number
  report?: Report
  abandon?: Abandon
}

/** How a sending went. */
export interface Sent {
  check: Check
  blocks: number
  retries: number
}

/**
 * Sends bytes to an XMODEM receiver. Resolves when the receiver has acknowledged the end.
 *
 * A receiver that starts with C gets CRC and blocks of `blockBytes`; one that starts with NAK gets sums and blocks
 * of 128. A rest too small for a large block goes in small ones, so that little padding is written.
 *
 * @throws Problem `xmodem-no-start`, `xmodem-cancelled`, `xmodem-gave-up`, `write-abandoned`, each with the byte
 * up to which the receiver has acknowledged.
 */
export async function sendXmodem(port: Port, bytes: Uint8Array, form: SendForm): Promise<Sent> {
  const check = await awaitStart(port, form.startTimeoutMs ?? 60_000, 'boot')
  const sent = await sendBlocks(port, bytes, check, form)
  await sendEnd(port, bytes.length, form)
  return sent
}

/** The data blocks of one file, numbered from 1, each acknowledged; after them comes the end. */
export async function sendBlocks(port: Port, bytes: Uint8Array, check: Check, form: SendForm): Promise<Sent> {
  const sent: Sent = { check, blocks: 0, retries: 0 }
  for (let at = 0; at < bytes.length;) {
    if (form.abandon?.raised) {
      await cancel(port)
      throw writeAbandoned(port.name, at, 'the unit holds a part of the image and stays in its bootloader')
    }
    const left = bytes.length - at
    const size = check === 'crc' && form.blockBytes === 1024 && left > 7 * 128 ? 1024 : 128
    const data = new Uint8Array(size).fill(form.padByte)
    data.set(bytes.subarray(at, at + size))
    sent.retries += await sendBlock(port, encodeBlock(sent.blocks + 1, data, check), form, {
      at,
      first: sent.blocks === 0,
    })
    sent.blocks++
    at = Math.min(bytes.length, at + size)
    await form.report?.({ done: at, total: bytes.length, unit: 'bytes', retries: sent.retries })
  }
  return sent
}

/**
 * One block until it is acknowledged; how often it had to be sent again.
 * @param place byte that it begins at, and whether the receiver may still be asking for the first.
 */
export async function sendBlock(
  port: Port,
  block: Uint8Array,
  { answerTimeoutMs = 20_000, tries = 10, silentTries = 3 }: SendForm,
  { at, first }: { at: number; first: boolean },
): Promise<number> {
  let silences = 0
  for (let attempt = 1; ; attempt++) {
    await discardInput(port)
    await port.write(block)
    const answer = await awaitAnswer(port, answerTimeoutMs, first)
    if (answer === ACK) return attempt - 1
    if (answer === CAN) throw cancelledByPeer(port.name, at)
    silences = answer === undefined || answer === 'noise' ? silences + 1 : 0
    if (attempt === tries || silences === silentTries) {
      await cancel(port)
      const found =
        answer === NAK ? 'NAK' : answer === 'noise' ? 'other words in place of an answer' : 'silence'
      throw gaveUp(port.name, at, attempt, found)
    }
  }
}

/**
 * A receiver that asks waits for its answer; a text goes on. The longest pause within a text, ms: an adapter hands over what came
 * every 16 ms (usual latency timer of USB serial adapters, from memory).
 */
const pauseMs = 20
/** So many C in a row are no text: a receiver that asks without a pause. */
const askings = 3

/**
 * The receiver's first character: it says by which check the blocks go.
 * @param from `boot`: a letter C within a text is none; `peer`: it has spoken the protocol already.
 */
export async function awaitStart(port: Port, timeoutMs: number, from: 'boot' | 'peer'): Promise<Check> {
  let cancels = 0
  let letters = 0
  for (let passed = 0; ; passed++) {
    const byte = (await port.read(1, letters > 0 ? pauseMs : timeoutMs))?.[0]
    if (byte === undefined && letters > 0) return 'crc'
    if (byte === undefined || passed > maxTalk) {
      throw new Problem({
        kind: 'xmodem-no-start',
        thing: port.name,
        place: { offset: 0 },
        says:
          byte === undefined
            ? `the receiver did not ask for the first block within ${timeoutMs / 1000} s`
            : 'the unit talks and does not ask for the first block',
        expected: 'C or NAK',
        found: byte === undefined ? 'silence' : 'other words, without an asking',
        remedy: 'Nothing was written. Check that the unit is in its bootloader, then try again.',
      })
    }
    letters = byte === ASK_CRC ? letters + 1 : 0
    if (letters === askings || (letters > 0 && from === 'peer')) return 'crc'
    if (byte === NAK) return 'sum'
    cancels = byte === CAN ? cancels + 1 : 0
    if (cancels === 2) throw cancelledByPeer(port.name, 0)
  }
}

/** More noise than this is no noise: a unit that was reset prints its log, and would be waited for without end. */
const maxNoise = 256

/** ACK, NAK, CAN (two in a row), or undefined for silence. Some noise on the line is passed over. */
async function awaitAnswer(
  port: Port,
  timeoutMs: number,
  first: boolean,
): Promise<number | 'noise' | undefined> {
  let cancels = 0
  for (let passed = 0; ; passed++) {
    if (passed > maxNoise) return 'noise'
    const byte = (await port.read(1, timeoutMs))?.[0]
    if (byte === undefined || byte === ACK || byte === NAK) return byte
    // Still asking after the first block was sent: it was not heard.
    if (byte === ASK_CRC && first) return NAK
    cancels = byte === CAN ? cancels + 1 : 0
    if (cancels === 2) return CAN
  }
}

/** EOT until it is acknowledged; a careful receiver answers the first with NAK to be sure it was no noise. */
export async function sendEnd(
  port: Port,
  total: number,
  { answerTimeoutMs = 20_000, tries = 10 }: SendForm,
): Promise<void> {
  for (let attempt = 1; attempt <= tries; attempt++) {
    await discardInput(port)
    await port.write(Uint8Array.of(EOT))
    const answer = await awaitAnswer(port, answerTimeoutMs, false)
    if (answer === ACK) return
    if (answer === CAN) throw cancelledByPeer(port.name, total)
    if (answer === 'noise') break
  }
  throw gaveUp(port.name, total, tries, 'no acknowledgement of the end')
}

async function cancel(port: Port): Promise<void> {
  await port.write(Uint8Array.of(CAN, CAN))
}

function gaveUp(thing: string, offset: number, tries: number, found: string): Problem {
  return new Problem({
    kind: 'xmodem-gave-up',
    thing,
    place: { offset },
    says: `the block was sent ${tries} times and not acknowledged`,
    expected: 'ACK',
    found,
    remedy:
      'Do not power down. Check the contacts, then write again from the beginning, at a lower speed if need be.',
  })
}
