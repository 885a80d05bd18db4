import { concatBytes } from '../../kernel'
import { dapCommand } from '../swd'
import type { SpiExchange } from './spi-port'

/*
 * DAP_JTAG_Sequence (CMSIS-DAP reference): a count of sequences; each is an information byte (bits 0 to 5 clocks, 0 for 64;
 * bit 6 the level of TMS; bit 7 keep what comes in) and the bits that go out, lowest first. The answer is a status byte and
 * the bits that were kept, each sequence filled to whole bytes.
 */
const levelHigh = 0x40
const keep = 0x80
const headBytes = 2
const maxSequences = 255
/** Bytes of a full sequence, and with its information byte. */
const fullBytes = 8
/** Select goes high for one clock: information byte and a byte with its bit. */
const letGo = Uint8Array.of(levelHigh | 1, 0)

/** A packet, and which bytes of its answer belong to which exchange. */
export interface SequencePacket {
  packet: Uint8Array
  /** Bytes of the answer after its status, in their order: whose they are. */
  kept: { of: number; bytes: number }[]
}

/** Bytes of one exchange that a packet holds whole, its letting go included. */
export function wholeExchangeBytes(packetBytes: number): number {
  const room = packetBytes - headBytes - letGo.length
  return Math.floor(room / (fullBytes + 1)) * fullBytes + Math.max(0, (room % (fullBytes + 1)) - 1)
}

/** How an adapter's lines are used. */
export interface LineUse {
  packetBytes: number
  /** Select stays low from one packet to the next; where it does not, an exchange lies in one packet whole. */
  held: boolean
  /** Select is TMS; without it every clock is meant for the unit, and nothing is let go. */
  selects: boolean
}

/**
 * Exchanges as packets of an adapter, as few as they fit in.
 * @throws RangeError for an exchange that no packet holds whole where it must.
 */
export function packExchanges(
  list: readonly SpiExchange[],
  { packetBytes, held, selects }: LineUse,
): SequencePacket[] {
  const packets: SequencePacket[] = []
  const end = selects ? letGo : new Uint8Array(0)
  let sequences: Uint8Array[] = []
  let kept: SequencePacket['kept'] = []
  let [out, back] = [headBytes, headBytes]
  const close = () => {
    if (sequences.length === 0) return
    const head = Uint8Array.of(dapCommand.jtagSequence, sequences.length)
    packets.push({ packet: concatBytes([head, ...sequences]), kept })
    sequences = []
    kept = []
    ;[out, back] = [headBytes, headBytes]
  }
  const full = () => sequences.length === maxSequences
  const put = (of: number, bytes: Uint8Array, keeps: boolean) => {
    const level = (selects ? 0 : levelHigh) | (keeps ? keep : 0)
    for (let at = 0; at < bytes.length;) {
      const room = Math.min(packetBytes - out - 1, keeps ? packetBytes - back : Infinity)
      if (room < 1 || full()) {
        close()
        continue
      }
      const piece = bytes.subarray(at, at + Math.min(fullBytes, room))
      sequences.push(concatBytes([Uint8Array.of(((piece.length * 8) & 0x3f) | level), mirrored(piece)]))
      out += 1 + piece.length
      if (keeps) {
        back += piece.length
        kept.push({ of, bytes: piece.length })
      }
      at += piece.length
    }
  }
  list.forEach(({ send, read }, of) => {
    if (!held) {
      if (send.length + read > wholeExchangeBytes(packetBytes))
        throw new RangeError('the adapter lets select go between packets: this exchange is too long for one')
      const bytes = sequenceBytes(send.length) + sequenceBytes(read) + end.length
      if (out + bytes > packetBytes || back + read > packetBytes) close()
    }
    put(of, send, false)
    put(of, new Uint8Array(read), true)
    if (end.length === 0) return
    if (out + end.length > packetBytes || full()) close()
    sequences.push(end)
    out += end.length
  })
  close()
  return packets
}

const sequenceBytes = (bytes: number) => bytes + Math.ceil(bytes / fullBytes)

/** The pieces that answers hold, by exchange. @param answers bytes after the status, packet by packet. */
export function unpackExchanges(
  list: readonly SpiExchange[],
  packets: readonly SequencePacket[],
  answers: readonly Uint8Array[],
): Uint8Array[] {
  const back = list.map(({ read }) => ({ bytes: new Uint8Array(read), at: 0 }))
  packets.forEach(({ kept }, index) => {
    let from = 0
    for (const { of, bytes } of kept) {
      const into = back[of]!
      into.bytes.set(mirrored(answers[index]!.subarray(from, from + bytes)), into.at)
      into.at += bytes
      from += bytes
    }
  })
  return back.map(({ bytes }) => bytes)
}

/** Bytes with their bits in the other order: a chip wants the highest first, the adapter sends the lowest. */
const mirrored = (bytes: Uint8Array): Uint8Array => bytes.map((byte) => mirror[byte]!)
const mirror = Uint8Array.from({ length: 256 }, (_, byte) => {
  let out = 0
  for (let bit = 0; bit < 8; bit++) out |= ((byte >> bit) & 1) << (7 - bit)
  return out
})
