import { concatBytes, hexNumber, hexText, isProblem, Problem, type Clock } from '../../kernel'
import type { Transport } from '../isotp'
import { askUds, udsRange, usualUdsTiming, type UdsClient, type UdsForm, type UdsTiming } from '../uds/client'
import { busy, refusalText, service } from '../uds/words'

/*
 * The older services on the single wire (ISO 14230-3; from memory of the published tables). They are those of ISO 14229-1
 * with these differences: routines and most data have identifiers of one byte, a routine's result is asked for by itself,
 * fault codes have two bytes, a download is announced as address, format, size, and its blocks have no number.
 */

/** Services that the newer standard has not, or numbers otherwise. */
export const olderService = {
  identification: 0x1a,
  faultsByStatus: 0x18,
  localData: 0x21,
  routineResult: 0x33,
} as const

/** What differs between controllers with these services. */
export interface OlderForm extends Pick<UdsForm, 'widths' | 'dataFormat'> {
  /** The result of a routine is asked for by itself (33), until it is there. */
  routineResults?: boolean
  /** Data bytes of one transfer message; what the controller says where nothing is said. */
  transferBytes?: number
}

/** Rest between two questions for a routine's result, ms; the longest that it may go on. */
const [resultRestMs, maxRoutineMs] = [100, 120_000]
/** Codes that say "not yet": busy, and the routine is not complete. */
const notYet: readonly (string | undefined)[] = [busy, 0x23].map(refusalText)
/** Address and size have three bytes each where nothing is said. */
export const olderWidths = { address: 3, length: 3 } as const

/** The same sentences as a newer controller's, in the older words. @throws Problem as `askUds` does. */
export function olderClient(
  transport: Transport,
  clock: Pick<Clock, 'now' | 'sleep'>,
  timing: UdsTiming = usualUdsTiming,
  form: OlderForm = {},
): UdsClient {
  const ask = (own: UdsTiming, ...parts: (number | Uint8Array)[]) =>
    askUds(
      transport,
      clock,
      concatBytes(parts.map((part) => (typeof part === 'number' ? Uint8Array.of(part) : part))),
      own,
    )
  const odd = (at: string, expected: string, found: string) =>
    new Problem({
      kind: 'uds-answer',
      thing: transport.name,
      place: { at },
      says: 'the answer is not to what was asked',
      expected,
      found,
      remedy: 'Ask again; a second tester on the line must be unplugged.',
    })
  const echoed = async (expected: number, at: string, own: UdsTiming, ...parts: (number | Uint8Array)[]) => {
    const answer = await ask(own, ...parts)
    if (answer[0] !== expected)
      throw odd(at, hexText(expected), answer.length > 0 ? hexText(answer[0]!) : 'nothing')
    return answer.subarray(1)
  }
  /** Data with an identifier of two bytes: what comes after both. */
  const ofIdentifier = async (id: number, identifier: number, ...parts: Uint8Array[]) => {
    const at = hexText(identifier, 4)
    const [high, low] = [identifier >> 8, identifier & 255]
    const answer = await echoed(high, at, timing, id, high, low, ...parts)
    if (answer[0] !== low) throw odd(at, hexText(low), answer.length > 0 ? hexText(answer[0]!) : 'nothing')
    return answer.subarray(1)
  }
  const range = (address: number, length: number, between: readonly number[]) => {
    const widths = { ...olderWidths, ...form.widths }
    const bytes = udsRange(address, length, { widths })
    return [bytes.subarray(0, widths.address), ...between, bytes.subarray(widths.address)]
  }
  const announce = async (id: number, address: number, length: number): Promise<number> => {
    const format = id === service.requestDownload ? (form.dataFormat ?? 0) : 0
    const said = await ask(timing, id, ...range(address, length, [format]))
    const most = said.reduce((sum, byte) => sum * 256 + byte, 0)
    if (most < 1)
      throw new Problem({
        kind: 'uds-answer',
        thing: transport.name,
        place: { at: hexNumber(id, 2) },
        says: 'the answer does not say how long a block may be',
        remedy: 'Say it in the profile, at the link’s "transferBytes".',
      })
    const room = (transport.longest?.() ?? Infinity) - 1
    // Whoever asks counts two bytes of head, as the newer services have them.
    return Math.min(form.transferBytes ?? most, room) + 2
  }
  const result = async (id: number): Promise<Uint8Array> => {
    const until = clock.now() + maxRoutineMs
    for (;;) {
      const asked = clock.now()
      try {
        return await echoed(id, 'result', timing, olderService.routineResult, id)
      } catch (error) {
        const isNotYet = isProblem(error, 'uds-refused') && notYet.includes(error.facts.found)
        // By when it was asked: a computer that stood still before it read the answer makes no routine endless.
        if (!isNotYet || asked > until) throw error
        await clock.sleep(resultRestMs)
      }
    }
  }
  return {
    repeats: false,
    faultBytes: 2,
    session: async (id) => void (await echoed(id, 'session', timing, service.session, id)),
    reset: async (kind) => void (await ask(timing, service.reset, kind)),
    readData: (identifier) => ofIdentifier(service.readData, identifier),
    readLocal: (identifier) =>
      echoed(identifier, hexText(identifier), timing, olderService.localData, identifier),
    identification: (option) => echoed(option, hexText(option), timing, olderService.identification, option),
    writeData: async (identifier, value) => void (await ofIdentifier(service.writeData, identifier, value)),
    async unlock(level, keyOf) {
      const seed = await echoed(level, 'seed', timing, service.security, level)
      if (seed.length === 0) throw odd('seed', 'a seed', 'none')
      if (seed.every((byte) => byte === 0)) return
      await echoed(level + 1, 'key', timing, service.security, level + 1, await keyOf(seed))
    },
    async readFaults() {
      // Every code of every group: how many, then two bytes and a status each.
      const [count = 0, ...list] = await ask(timing, olderService.faultsByStatus, 0x00, 0xff, 0x00)
      if (list.length !== 3 * count)
        throw new Problem({
          kind: 'uds-answer',
          thing: transport.name,
          place: { at: 'fault codes' },
          says: 'the list of fault codes broke off',
          expected: `${3 * count} bytes`,
          found: `${list.length} bytes`,
          remedy: 'Ask again.',
        })
      return Array.from({ length: count }, (_, index) => {
        const [high = 0, low = 0, status = 0] = list.slice(index * 3, index * 3 + 3)
        return { code: (high << 8) | low, status }
      })
    },
    clearFaults: async () => void (await ask(timing, service.clearFaults, 0xff, 0x00)),
    // One controller alone is on the line: there is nobody to be silenced, and no service for it.
    quiet: async () => {},
    faultSetting: async () => {},
    async startRoutine(identifier, option = new Uint8Array(0), own = timing) {
      const said = await echoed(identifier, 'routine', own, service.routine, identifier, option)
      return form.routineResults ? result(identifier) : said
    },
    requestDownload: (address, length) => announce(service.requestDownload, address, length),
    requestUpload: (address, length) => announce(service.requestUpload, address, length),
    transfer: (_block, data = new Uint8Array(0)) => ask(timing, service.transferData, data),
    transferExit: async () => void (await ask(timing, service.transferExit)),
    testerPresent: async () => void (await ask(timing, service.testerPresent, 0x01)),
    sendByItself: () => Promise.reject(new TypeError('these services have no data that is sent by itself')),
  }
}
