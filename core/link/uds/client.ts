import { asciiText, concatBytes, Problem, type Clock, hexNumber, hexText } from '../../kernel'
import type { Transport } from '../isotp'
import { busy, pending, refusalText, service, serviceText } from './words'

/** How long a controller is waited for. */
export interface UdsTiming {
  /** P2: longest wait for an answer, ms (ISO 14229-2, table 4: 50 in the unit, the network's time on top). */
  answerMs: number
  /** P2*: longest wait after "needs longer", ms (5 000 in the unit). */
  pendingMs: number
  /** Longest a unit may go on asking for time, ms. */
  maxPendingMs: number
}

/** What differs between controllers beyond the standard's choices. */
export interface UdsForm {
  /** Bytes of an address and of a length. */
  widths?: { address?: 1 | 2 | 3 | 4; length?: 1 | 2 | 3 | 4 }
  /** Packed or enciphered as the image comes. */
  dataFormat?: number
  /** Tells all controllers at once; nobody answers. Absent where only one is on the line. */
  tellAll?: (message: Uint8Array) => Promise<void>
}
/** What the bus and the adapter take on top of the unit's own time, ms. */
const networkMs = 100
/** Rest before a busy controller is asked again, ms. */
const busyRestMs = 100
/** Answer asked for or not: the high bit of a subfunction (ISO 14229-1, 8.2.2). */
const noAnswer = 0x80

/** What holds until a unit says its own times. */
export const usualUdsTiming: UdsTiming = { answerMs: 150, pendingMs: 5100, maxPendingMs: 120_000 }

/** The standard's times, with the wait that a profile gives. */
export const udsTimingOf = ({ answerMs }: { answerMs?: number }): UdsTiming =>
  answerMs === undefined ? usualUdsTiming : { ...usualUdsTiming, answerMs }

/** A fault code with its status byte (ISO 14229-1, annex D: three bytes and a status). */
export interface FaultCode {
  code: number
  status: number
}

/**
 * Asks a controller one thing and gives the answer's bytes after its service identifier. Answers to something else are
 * passed over; "needs longer" is waited out, and one that is busy is asked again.
 * @param isIt whether such bytes are the answer; any are where nothing is said.
 * @throws Problem `uds-silent`, `uds-refused` (its `found` names the code in words), `uds-answer` when the answer's
 * echo does not agree.
 */
export async function askUds(
  transport: Transport,
  clock: Pick<Clock, 'now' | 'sleep'>,
  request: Uint8Array,
  timing: UdsTiming = usualUdsTiming,
  isIt: (answer: Uint8Array) => boolean = () => true,
): Promise<Uint8Array> {
  const id = request[0]!
  await transport.clear()
  await transport.send(request)
  const began = clock.now()
  let until = began + timing.answerMs
  for (;;) {
    const answer = await transport.receive(Math.max(0, until - clock.now()))
    if (!answer) throw silentUnit(transport.name, id)
    if (answer[0] === id + 0x40 && isIt(answer.subarray(1))) return answer.subarray(1)
    if (answer[0] !== 0x7f || answer[1] !== id) {
      // Late words about another matter must not hold us past our time.
      if (clock.now() >= until) throw silentUnit(transport.name, id)
      continue
    }
    const code = answer[2] ?? 0x10
    if (code === busy && clock.now() - began < timing.maxPendingMs) {
      // It is busy and did not take the request: the same once more, after a rest.
      await clock.sleep(busyRestMs)
      await transport.send(request)
      until = clock.now() + timing.answerMs
      continue
    }
    if (code !== pending) throw refused(transport.name, id, code)
    if (clock.now() - began > timing.maxPendingMs) throw silentUnit(transport.name, id)
    until = clock.now() + timing.pendingMs
  }
}

function silentUnit(thing: string, id: number): Problem {
  return new Problem({
    kind: 'uds-silent',
    thing,
    says: `the controller does not answer "${serviceText(id)}"`,
    remedy: 'Look at key, supply and connector; then whether another tester is on the bus.',
  })
}

function refused(thing: string, id: number, code: number): Problem {
  return new Problem({
    kind: 'uds-refused',
    thing,
    place: { at: serviceText(id) },
    says: 'the controller refuses',
    found: refusalText(code),
    remedy: 'Put right what it names, then ask again.',
  })
}

function odd(thing: string, at: string, expected: string, found: string): Problem {
  return new Problem({
    kind: 'uds-answer',
    thing,
    place: { at },
    says: 'the answer is not to what was asked',
    expected,
    found,
    remedy: 'Ask again; a second tester on the bus must be unplugged.',
  })
}

/** The services of one controller, each a sentence. */
export interface UdsClient {
  /** True where blocks of a transfer have numbers: one whose answer was lost is sent again, and taken once. */
  readonly repeats: boolean
  /** Bytes of a fault code. */
  readonly faultBytes: 2 | 3
  session(id: number): Promise<void>
  /** @param kind 1 hard, 3 soft (annex B). */
  reset(kind: number): Promise<void>
  readData(identifier: number): Promise<Uint8Array>
  /** Data with an identifier of one byte, and what it says of its identity; of older services alone. */
  readLocal?(identifier: number): Promise<Uint8Array>
  identification?(option: number): Promise<Uint8Array>
  writeData(identifier: number, value: Uint8Array): Promise<void>
  /** Opens a level: asks for a seed, sends its key. A seed of zero says that it is open already. */
  unlock(level: number, keyOf: (seed: Uint8Array) => Uint8Array | Promise<Uint8Array>): Promise<void>
  readFaults(statusMask: number): Promise<FaultCode[]>
  clearFaults(group?: number): Promise<void>
  /** Normal messages of all others off or on, so that the bus is free for the transfer. */
  quiet(others: boolean): Promise<void>
  faultSetting(on: boolean): Promise<void>
  /** Starts a routine; what it answers after its identifier. */
  startRoutine(identifier: number, option?: Uint8Array, timing?: UdsTiming): Promise<Uint8Array>
  /** Announces a transfer; the most bytes one transfer message may have, with its two bytes of head. */
  requestDownload(address: number, length: number): Promise<number>
  requestUpload(address: number, length: number): Promise<number>
  transfer(block: number, data?: Uint8Array): Promise<Uint8Array>
  transferExit(): Promise<void>
  testerPresent(): Promise<void>
  /** Sets how often some data is sent without being asked for, by the low bytes of its identifiers; mode 4 ends it. */
  sendByItself(mode: number, lows: readonly number[]): Promise<void>
}

const addressWidth = ({ widths }: UdsForm) => widths?.address ?? 4
const lengthWidth = ({ widths }: UdsForm) => widths?.length ?? 4

/** Address and length as a controller takes them. @throws Problem `uds-range` where one does not fit. */
export function udsRange(address: number, length: number, form: UdsForm): Uint8Array {
  const bytes = (value: number, width: number, what: string) => {
    if (value >= 2 ** (8 * width))
      throw new Problem({
        kind: 'uds-range',
        says: `the ${what} does not fit in the ${width} bytes that the profile gives it`,
        found: hexText(value),
        remedy: 'Look at "widths" of the link, and at the memory of the component.',
      })
    return Array.from({ length: width }, (_, at) => Math.floor(value / 2 ** (8 * (width - 1 - at))) & 255)
  }
  return Uint8Array.of(
    ...bytes(address, addressWidth(form), 'address'),
    ...bytes(length, lengthWidth(form), 'length'),
  )
}

/** Asks a controller for services, one at a time; waits out "busy" and "needs longer". */
export function udsClient(
  transport: Transport,
  clock: Pick<Clock, 'now' | 'sleep'>,
  timing: UdsTiming = usualUdsTiming,
  form: UdsForm = {},
): UdsClient {
  /** What the unit says of its own times holds from then on. */
  let learned = timing
  const ask = (...parts: (number | Uint8Array)[]) => askUds(transport, clock, join(parts), learned)
  const { tellAll } = form
  const echoed = async (at: string, expected: number[], ...parts: (number | Uint8Array)[]) => {
    const answer = await ask(...parts)
    if (expected.some((byte, index) => answer[index] !== byte)) {
      throw odd(transport.name, at, hexList(expected), hexList([...answer.subarray(0, expected.length)]))
    }
    return answer.subarray(expected.length)
  }
  const announce = async (id: number, address: number, length: number) => {
    const widths = (lengthWidth(form) << 4) | addressWidth(form)
    const format = id === service.requestDownload ? (form.dataFormat ?? 0) : 0
    const answer = await ask(id, format, widths, udsRange(address, length, form))
    const width = (answer[0] ?? 0) >> 4
    let most = 0
    for (const byte of answer.subarray(1, 1 + width)) most = most * 256 + byte
    if (width === 0 || answer.length < 1 + width || most < 3) {
      throw odd(transport.name, serviceText(id), 'the length of a block', hexList([...answer]))
    }
    return most
  }
  return {
    repeats: true,
    faultBytes: 3,
    async session(id) {
      const times = await echoed('session', [id], service.session, id)
      // P2 in ms, P2* in tens of ms (ISO 14229-1, 9.2); the network's own time comes on top of what is usual.
      if (times.length < 4) return
      const [high = 0, low = 0, highStar = 0, lowStar = 0] = times
      learned = {
        ...learned,
        answerMs: Math.max(timing.answerMs, high * 256 + low + networkMs),
        pendingMs: Math.max(timing.pendingMs, 10 * (highStar * 256 + lowStar) + networkMs),
      }
    },
    async reset(kind) {
      await echoed('reset', [kind], service.reset, kind)
    },
    readData: (identifier) =>
      echoed(hexText(identifier, 4), bytes16(identifier), service.readData, ...bytes16(identifier)),
    async writeData(identifier, value) {
      await echoed(
        hexText(identifier, 4),
        bytes16(identifier),
        service.writeData,
        ...bytes16(identifier),
        value,
      )
    },
    async unlock(level, keyOf) {
      const seed = await echoed('seed', [level], service.security, level)
      if (seed.length === 0) throw odd(transport.name, 'seed', 'a seed', 'none')
      if (seed.every((byte) => byte === 0)) return
      await echoed('key', [level + 1], service.security, level + 1, await keyOf(seed))
    },
    async readFaults(statusMask) {
      // Report by status mask: availability mask, then four bytes a code.
      const list = (await echoed('fault codes', [0x02], service.readFaults, 0x02, statusMask)).subarray(1)
      if (list.length % 4 !== 0)
        throw odd(transport.name, 'fault codes', 'four bytes a code', hexList([...list]))
      return Array.from({ length: list.length / 4 }, (_, index) => {
        const [high = 0, middle = 0, low = 0, status = 0] = list.subarray(index * 4, index * 4 + 4)
        return { code: (high << 16) | (middle << 8) | low, status }
      })
    },
    async clearFaults(group = 0xffffff) {
      await ask(service.clearFaults, group >> 16, (group >> 8) & 255, group & 255)
    },
    async quiet(others) {
      const kind = others ? 0x03 : 0x00
      if (tellAll) await tellAll(Uint8Array.of(service.communication, kind | noAnswer, 0x01))
      else await echoed('communication', [kind], service.communication, kind, 0x01)
    },
    async faultSetting(on) {
      const kind = on ? 0x01 : 0x02
      if (tellAll) await tellAll(Uint8Array.of(service.faultSetting, kind | noAnswer))
      else await echoed('fault setting', [kind], service.faultSetting, kind)
    },
    startRoutine: (identifier, option = new Uint8Array(0), own = learned) =>
      askUds(transport, clock, join([service.routine, 0x01, ...bytes16(identifier), option]), own).then(
        (answer) => {
          const [kind, high, low] = answer
          if (kind !== 0x01 || ((high! << 8) | low!) !== identifier) {
            throw odd(transport.name, 'routine', hexText(identifier, 4), hexList([...answer.subarray(0, 3)]))
          }
          return answer.subarray(3)
        },
      ),
    requestDownload: (address, length) => announce(service.requestDownload, address, length),
    requestUpload: (address, length) => announce(service.requestUpload, address, length),
    transfer: (block, data = new Uint8Array(0)) =>
      echoed(`block ${block}`, [block & 255], service.transferData, block & 255, data),
    async transferExit() {
      await ask(service.transferExit)
    },
    async testerPresent() {
      await echoed('tester present', [0x00], service.testerPresent, 0x00)
    },
    async sendByItself(mode, lows) {
      // Its answer carries nothing; one that carries data was sent by the unit itself meanwhile.
      const request = join([service.periodicData, mode, ...lows])
      await askUds(transport, clock, request, learned, ({ length }) => length === 0)
    },
  }
}

const join = (parts: readonly (number | Uint8Array)[]) =>
  concatBytes(parts.map((part) => (typeof part === 'number' ? Uint8Array.of(part) : part)))
const bytes16 = (value: number) => [value >> 8, value & 255]
const hexList = (bytes: readonly number[]) =>
  bytes.length === 0 ? 'nothing' : bytes.map((byte) => hexNumber(byte, 2)).join(' ')

/** A data identifier's bytes as a line of the page shows them. */
export const udsText = (bytes: Uint8Array): string => asciiText(bytes).replace(/\0+$/, '').trim()
