import type { KeyStep } from '../../family'
import { bytesOfHex, hexNumber, hexOf, isProblem, Problem, type Clock } from '../../kernel'
import { retryPassing } from '../retry-passing'
import { checksumVerification } from '../check'
import { writeAbandoned, type Loader } from '../loader'
import type { Person } from '../person'
import type { Transport } from '../isotp'
import {
  udsClient,
  udsRange,
  udsTimingOf,
  usualUdsTiming,
  type UdsClient,
  type UdsForm,
  type UdsTiming,
} from './client'
import { keyOfSeed } from './security-key'
import { session } from './words'

/** Bytes as a person reads them: pairs of digits. */
const pairs = (bytes: Uint8Array) => (hexOf(bytes).match(/../g) ?? []).join(' ')

/** The answer to a seed, from whoever gives it out for this unit. */
const typedKey = async (person: Person, seed: Uint8Array, level: number): Promise<Uint8Array> =>
  bytesOfHex(
    await person.type({
      says: `The unit asks for the key of level ${level}. Its seed is ${pairs(seed).toUpperCase()}. Type the key that its maker, or who keeps it, gives for this seed.`,
      as: 'hex',
    }),
  )

/** A routine that has to say well. */
export interface UdsRoutine {
  routine: number
  option?: string
  answer?: string
  says: string
}

/** What a profile says of its controller beyond the standard. */
export interface UdsSettings extends Pick<UdsForm, 'widths' | 'dataFormat'> {
  /** Absent where it asks for no access. */
  securityLevel?: number
  /** Longest wait for an answer until the controller says its own times, ms. */
  answerMs?: number
  /** Sessions in their order; extended, then programming. */
  sessions?: readonly number[]
  fingerprint?: { identifier: number; bytes: string }
  /** Preconditions, before the last session. */
  before?: readonly UdsRoutine[]
  /** Dependencies, after the transfer. */
  after?: readonly UdsRoutine[]
  /** How a seed is answered; absent where no manual says it. */
  key?: readonly KeyStep[]
  /** The person types the answer to a seed. */
  keyTyped?: boolean
  eraseRoutine: number
  checkRoutine: number
}

/** How often an act is tried when its answer does not come, or comes broken. */
const tries = 5
/** How long a session is relied on after its last word, ms: less than the five seconds that it stays open. */
const keepsMs = 4000
/** Between two words that keep a session open, ms (ISO 14229-2: well below S3). */
const keepsAwakeMs = 2000
/** What another try may mend. */
const passing = [
  'uds-silent',
  'uds-answer',
  'isotp-no-flow',
  'isotp-waits',
  'isotp-frame-missing',
  'kwp-frame',
  'kwp-echo',
  'kwp-no-wake',
]

/**
 * A controller's boot over the services of ISO 14229-1, whatever carries them. The order of the programming sequence is
 * common practice: extended session, fault codes and other traffic held, programming session, access, erase, download,
 * check, reset. Each act opens session and access anew, since both fall shut after five seconds of silence.
 * @param open joins the carrier where it needs waking; called at the start of each act.
 */
export function udsLoader(
  transport: Transport,
  clock: Clock,
  settings: UdsSettings,
  page: () => Promise<string[]>,
  open: () => Promise<void> = async () => {},
  tellAll?: UdsForm['tellAll'],
  person: () => Person | null = () => null,
  clientOf: (timing: UdsTiming, form: UdsForm) => UdsClient = (timing, own) =>
    udsClient(transport, clock, timing, own),
): Loader {
  const { widths, dataFormat, sessions = [session.extended, session.programming] } = settings
  const form: UdsForm = {
    ...(widths && { widths }),
    ...(dataFormat === undefined ? {} : { dataFormat }),
    ...(tellAll && { tellAll }),
  }
  const unit = clientOf(udsTimingOf(settings), form)
  /** A routine's answer, held against how it begins where all is well. */
  const check = async ({ routine, option = '', answer, says }: UdsRoutine) => {
    const got = await unit.startRoutine(routine, bytesOfHex(option.replace(/ /g, '')))
    const wanted = answer?.trim().split(/ +/) ?? []
    const well = wanted.every((byte, at) => byte === '..' || parseInt(byte, 16) === got[at])
    if (!well) throw notWell(transport.name, says, wanted.join(' '), pairs(got))
  }
  /** A person takes longer than a session stays open (S3): meanwhile it is kept open. */
  const keptOpen = async <T>(waited: Promise<T>): Promise<T> => {
    let over = false
    const end = waited.then(
      () => (over = true),
      () => (over = true),
    )
    while (!over) {
      await Promise.race([end, clock.sleep(keepsAwakeMs)])
      if (!over) await unit.testerPresent()
    }
    return waited
  }
  const again = <T>(act: () => Promise<T>, onRetry: () => void = () => {}) =>
    retryPassing(act, { tries, passing, onRetry })
  /** A session falls shut after five seconds without a word (S3, ISO 14229-2): until then it is not opened anew. */
  let openUntil = -Infinity
  const enterAnew = () =>
    again(async () => {
      await open()
      const last = sessions.at(-1)!
      const before = sessions.slice(0, -1)
      // Where there is one alone, it comes first: nothing is held back in the session a controller starts in.
      for (const id of before.length > 0 ? before : [last]) await unit.session(id)
      await unit.faultSetting(false)
      await unit.quiet(true)
      for (const routine of settings.before ?? []) await check(routine)
      if (before.length > 0) await unit.session(last)
      const { securityLevel, key } = settings
      if (securityLevel === undefined) return
      await unit.unlock(securityLevel, (seed) => {
        if (key) return keyOfSeed(seed, key)
        const beside = person()
        if (!settings.keyTyped || !beside) throw noKey(transport.name, securityLevel)
        return keptOpen(typedKey(beside, seed, securityLevel))
      })
    })
  /**
   * Does an act in the session that is written in. One that stands is not asked for again: a controller would forget its
   * access, its fingerprint, and that it was erased.
   */
  const inSession = async <T>(act: () => Promise<T>): Promise<T> => {
    try {
      if (clock.now() >= openUntil) await enterAnew()
      const done = await act()
      openUntil = clock.now() + keepsMs
      return done
    } catch (error) {
      openUntil = -Infinity
      throw error
    }
  }
  /** Ends a transfer whose every block is acknowledged. Ended already, its answer was lost: the check says the rest. */
  const end = async () => {
    let asked = 0
    try {
      await again(() => {
        asked++
        return unit.transferExit()
      })
    } catch (error) {
      if (asked === 1 || !isProblem(error, 'uds-refused')) throw error
    }
  }
  const range = (address: number, length: number) => udsRange(address, length, form)

  return {
    can: { read: true, erase: true, verify: 'checksum', resume: false },
    async attach() {
      try {
        openUntil = -Infinity
        await inSession(async () => {})
      } catch (error) {
        if (!passing.some((kind) => isProblem(error, kind))) throw error
        throw new Problem({
          kind: 'no-bootloader',
          thing: transport.name,
          says: 'the controller does not answer',
          expected: 'the programming session',
          found: 'silence',
          remedy:
            'The unit is unchanged. Key off, count to ten, key on with the motor standing; then the connector.',
        })
      }
    },
    identify: page,
    read: ({ address, length }, report) =>
      inSession(async () => {
        const bytes = new Uint8Array(length)
        let retries = 0
        await again(() => unit.requestUpload(address, length))
        for (let at = 0, block = 1; at < length; block++) {
          const take = () => unit.transfer(block)
          const piece = await (unit.repeats ? again(take, () => void retries++) : take())
          if (piece.length === 0 || at + piece.length > length) throw shortOf(transport.name, at)
          bytes.set(piece, at)
          at += piece.length
          await report({ done: at, total: length, unit: 'bytes', retries })
        }
        await end()
        return bytes
      }),
    erase: ({ address, length }, report) =>
      inSession(async () => {
        const { fingerprint } = settings
        if (fingerprint)
          await again(() =>
            unit.writeData(fingerprint.identifier, bytesOfHex(fingerprint.bytes.replace(/ /g, ''))),
          )
        await again(() =>
          unit.startRoutine(settings.eraseRoutine, range(address, length), {
            ...usualUdsTiming,
            // The first "needs longer" comes at once; from then on its own time runs.
            answerMs: usualUdsTiming.pendingMs,
          }),
        )
        await report({ done: 1, total: 1, unit: 'sectors', retries: 0 })
      }),
    write: (address, bytes, report, abandon) =>
      inSession(async () => {
        const said = (await again(() => unit.requestDownload(address, bytes.length))) - 2
        const max = Math.min(said, (transport.longest?.() ?? Infinity) - 2)
        let retries = 0
        for (let at = 0, block = 1; at < bytes.length; block++) {
          if (abandon.raised)
            throw writeAbandoned(
              transport.name,
              at,
              'the controller holds a part of the program and stays in its boot',
            )
          const piece = bytes.subarray(at, at + max)
          const send = () => unit.transfer(block, piece)
          // Without a number a block whose answer was lost would be taken twice: the write begins anew then.
          await (unit.repeats ? again(send, () => void retries++) : send())
          at += piece.length
          await report({ done: at, total: bytes.length, unit: 'bytes', retries })
        }
        await end()
        for (const routine of settings.after ?? []) await again(() => check(routine))
      }),
    verify: (address, bytes) =>
      inSession(() =>
        checksumVerification(bytes, async (offset, length) => {
          const asked = range(address + offset, length)
          const answer = await again(() => unit.startRoutine(settings.checkRoutine, asked))
          return answer.length === 4 ? hexNumber(new DataView(answer.slice().buffer).getUint32(0), 8) : ''
        }),
      ),
    async startApplication() {
      await inSession(() => unit.reset(1))
      openUntil = -Infinity
    },
  }
}

function notWell(thing: string, says: string, expected: string, found: string): Problem {
  return new Problem({
    kind: 'uds-not-ready',
    thing,
    says: says.replace(/\.$/, ''),
    expected,
    found: found || 'no answer byte',
    remedy: 'Put right what it names, then go on; what was not begun is unchanged.',
  })
}

function noKey(thing: string, level: number): Problem {
  return new Problem({
    kind: 'uds-no-key',
    thing,
    says: `the controller asks for a key at level ${level}, and the profile does not say how a seed is answered`,
    remedy:
      'The unit is unchanged. Whoever holds the maker’s service manual has the steps; they are written in the profile, at the link’s "key".',
  })
}

function shortOf(thing: string, offset: number): Problem {
  return new Problem({
    kind: 'uds-answer',
    thing,
    place: { offset },
    says: 'the controller sent another length than was asked for',
    remedy: 'Read again from the beginning.',
  })
}
