import { Problem, type Clock } from '../../kernel'
import type { CanFrame, CanPort } from '../can'
import { decodeTp, encodeTp, firstBytes, singleBytes, type TpFrame, type TpPadding } from './frames'

/** Sends and receives whole messages of a diagnostic service, whatever carries them. */
export interface Transport {
  readonly name: string
  /** Resolves when the whole message has gone out and was taken. */
  send(message: Uint8Array): Promise<void>
  /** The next whole message, or null when none began within `timeoutMs`. */
  receive(timeoutMs: number): Promise<Uint8Array | null>
  /** Throws away what arrived and was not taken. */
  clear(): Promise<void>
  /** Most bytes of one message; absent where it does not matter. */
  longest?(): number
}

/** Who speaks with whom by ISO-TP, and in which frames. */
export interface IsoTpForm {
  sendId: number
  receiveId: number
  /** Identifier to all controllers, which one of them hears as well. */
  alsoReceiveId?: number
  /** 29-bit identifiers. */
  extended?: boolean
  /** First byte of each frame, sent and heard (extended and mixed addressing, clause 10.3); none where nothing is said. */
  addresses?: TpAddresses
  /** What we ask of the other side: frames between two flow controls, 0 for all. */
  blockSize?: number
  /** What we ask of the other side: least time between its frames, ms. */
  separationMs?: number
  /** Longest message that is taken, bytes. */
  maxBytes?: number
  padding?: TpPadding
}

/** The byte before each frame: whom we speak to, who we are, and the one that all controllers hear. */
export interface TpAddresses {
  sent: number
  heard: number
  alsoHeard?: number
}

/**
 * Time-outs of clause 9.7, ms (table 16), and how many waits in a row are borne. That a frame leaves in time, N_As, is the
 * bus port's affair: an adapter that does not say so within a second fails there.
 */
export const tpTimeouts = { nBs: 1000, nCr: 1000, maxWaits: 10 } as const

/** Frames of others that may lie in front of ours when the computer stood still: a second of a full bus (ISO 11898-1). */
const mostLate = 8000

/**
 * Segments messages over the vehicle bus (ISO 15765-2, clauses 6 to 9).
 * @throws Problem `isotp-no-flow` (N_Bs), `isotp-waits` (N_WFTmax), `isotp-overflow`, `isotp-frame-missing` (N_Cr or
 * wrong sequence number).
 */
export function isoTp(bus: CanPort, clock: Clock, form: IsoTpForm): Transport {
  const { sendId, receiveId, blockSize = 0, separationMs = 0, maxBytes = 0x100000, padding, addresses } = form
  const room = addresses ? 7 : 8
  /** Bytes that a consecutive frame carries. */
  const carried = room - 1
  /** Frames for us that came while we waited for a flow control: the other side may have begun a message. */
  const early: TpFrame[] = []
  const problem = (kind: string, says: string, remedy: string, offset?: number) =>
    new Problem({
      kind,
      thing: bus.name,
      ...(offset === undefined ? {} : { place: { offset } }),
      says,
      remedy,
    })

  const put = (frame: TpFrame) =>
    bus.send({
      id: sendId,
      ...(form.extended ? { extended: true } : {}),
      data: encodeTp(frame, padding, addresses?.sent),
    })
  const ours = ({ id, extended, data }: CanFrame) => {
    if (!!extended !== !!form.extended) return false
    const isTo = (wanted?: number, address?: number) =>
      wanted === id && (addresses === undefined || data[0] === address)
    return isTo(receiveId, addresses?.heard) || isTo(form.alsoReceiveId, addresses?.alsoHeard)
  }
  const next = async (timeoutMs: number): Promise<TpFrame | null> => {
    const kept = early.shift()
    if (kept) return kept
    const until = clock.now() + timeoutMs
    for (let late = 0; ;) {
      const left = Math.max(0, until - clock.now())
      const frame = await bus.receive(left)
      if (!frame) return null
      const read = ours(frame) ? decodeTp(frame.data, addresses !== undefined) : null
      if (read) return read
      // A busy bus that is not for us must not hold us past our time; what lay there already is looked through.
      if (clock.now() >= until && ++late > mostLate) return null
    }
  }

  /** Waits for leave to go on: how many frames, and how far apart. */
  const flow = async (at: number): Promise<{ frames: number; apartMs: number }> => {
    for (let waits = 0; ;) {
      const until = clock.now() + tpTimeouts.nBs
      let frame = await next(tpTimeouts.nBs)
      while (frame && frame.kind !== 'flow') frame = await next(Math.max(0, until - clock.now()))
      if (!frame) {
        throw problem(
          'isotp-no-flow',
          'the unit took the first frame and then said nothing',
          'Ask again. If it stays so: two testers on the bus, or a bad contact.',
          at,
        )
      }
      if (frame.status === 'overflow') {
        throw problem(
          'isotp-overflow',
          'the unit cannot take a message of this length',
          'Use smaller blocks.',
          at,
        )
      }
      if (frame.status === 'continue') {
        return { frames: frame.blockSize || Infinity, apartMs: frame.separationMs }
      }
      if (++waits > tpTimeouts.maxWaits) {
        throw problem(
          'isotp-waits',
          'the unit asks to wait again and again',
          'Give it time, then ask again.',
          at,
        )
      }
    }
  }

  const take = async (first: Extract<TpFrame, { kind: 'first' }>): Promise<Uint8Array | null> => {
    if (first.length > maxBytes) {
      await put({ kind: 'flow', status: 'overflow', blockSize: 0, separationMs: 0 })
      return null
    }
    const leave = () => put({ kind: 'flow', status: 'continue', blockSize, separationMs })
    const message = new Uint8Array(first.length)
    message.set(first.data)
    let at = first.data.length
    await leave()
    for (let count = 1; at < message.length; count++) {
      const frame = await next(tpTimeouts.nCr)
      const due = Math.min(carried, message.length - at)
      if (
        frame?.kind !== 'consecutive' ||
        frame.sequence !== (count & 15) ||
        // Only the last one may be shorter (clause 9.6.4): what it does not carry is not zeros.
        frame.data.length < due
      ) {
        // A new message in the middle of one ends the old one (clause 9.8.3): it is read next.
        if (frame && frame.kind !== 'consecutive') early.unshift(frame)
        throw problem(
          'isotp-frame-missing',
          frame ? 'a part of the message is missing' : 'the message broke off',
          'Ask again. If it stays so, look at connector and termination.',
          at,
        )
      }
      message.set(frame.data.subarray(0, due), at)
      at += due
      if (blockSize > 0 && count % blockSize === 0 && at < message.length) await leave()
    }
    return message
  }

  return {
    name: bus.name,
    async send(message) {
      if (message.length <= singleBytes(room)) return put({ kind: 'single', data: message })
      await put({ kind: 'first', length: message.length, data: message })
      let at = firstBytes(message.length, room)
      let sequence = 1
      while (at < message.length) {
        const { frames, apartMs } = await flow(at)
        for (let count = 0; count < frames && at < message.length; count++) {
          if (count > 0 && apartMs > 0) await clock.sleep(apartMs)
          await put({ kind: 'consecutive', sequence, data: message.subarray(at, at + carried) })
          sequence = (sequence + 1) & 15
          at += carried
        }
      }
    },
    async receive(timeoutMs) {
      const until = clock.now() + timeoutMs
      for (;;) {
        const frame = await next(Math.max(0, until - clock.now()))
        if (!frame) return null
        if (frame.kind === 'single') return frame.data
        if (frame.kind === 'first') {
          const message = await take(frame)
          if (message) return message
        }
        // A flow control or a consecutive frame that nobody waits for is ignored (clause 9.8.3).
      }
    },
    async clear() {
      early.length = 0
      while (await bus.receive(0)) {
        // What is thrown away was said before we asked.
      }
    },
  }
}
