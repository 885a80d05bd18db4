import type { KeyStep } from '../../family'
import { hexNumber, isProblem, Problem, type Clock } from '../../kernel'
import { insist } from '../insist'
import { checksumVerification } from '../check'
import { writeAbandoned, type Loader } from '../loader'
import type { Transport } from '../isotp'
import { udsClient, usualUdsTiming } from './client'
import { keyOfSeed } from './security-key'
import { session } from './words'

/** What a family's papers say of its controller beyond the standard. */
export interface UdsPapers {
  securityLevel: number
  /** How a seed is answered; absent where no papers say it. */
  key?: readonly KeyStep[]
  eraseRoutine: number
  checkRoutine: number
}

/** How often an act is tried when its answer does not come, or comes broken. */
const tries = 5
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
  papers: UdsPapers,
  page: () => Promise<string[]>,
  open: () => Promise<void> = async () => {},
): Loader {
  const unit = udsClient(transport, clock)
  const again = <T>(act: () => Promise<T>, onRetry: () => void = () => {}) =>
    insist(act, { tries, passing, onRetry })
  const enter = () =>
    again(async () => {
      await open()
      await unit.session(session.extended)
      await unit.faultSetting(false)
      await unit.quiet(true)
      await unit.session(session.programming)
      await unit.unlock(papers.securityLevel, (seed) => {
        if (papers.key) return keyOfSeed(seed, papers.key)
        throw noKey(transport.name, papers.securityLevel)
      })
    })
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
  const range = (address: number, length: number) => {
    const option = new DataView(new ArrayBuffer(8))
    option.setUint32(0, address)
    option.setUint32(4, length)
    return new Uint8Array(option.buffer)
  }

  return {
    can: { read: true, erase: true, verify: 'checksum', resume: false },
    async attach() {
      try {
        await enter()
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
    async read({ address, length }, report) {
      await enter()
      const bytes = new Uint8Array(length)
      let retries = 0
      await again(() => unit.requestUpload(address, length))
      for (let at = 0, block = 1; at < length; block++) {
        const piece = await again(
          () => unit.transfer(block),
          () => void retries++,
        )
        if (piece.length === 0 || at + piece.length > length) throw shortOf(transport.name, at)
        bytes.set(piece, at)
        at += piece.length
        await report({ done: at, total: length, unit: 'bytes', retries })
      }
      await end()
      return bytes
    },
    async erase({ address, length }, report) {
      await enter()
      await again(() =>
        unit.startRoutine(papers.eraseRoutine, range(address, length), {
          ...usualUdsTiming,
          // The first "needs longer" comes at once; from then on its own time runs.
          answerMs: usualUdsTiming.pendingMs,
        }),
      )
      await report({ done: 1, total: 1, unit: 'sectors', retries: 0 })
    },
    async write(address, bytes, report, abandon) {
      await enter()
      const most = (await again(() => unit.requestDownload(address, bytes.length))) - 2
      let retries = 0
      for (let at = 0, block = 1; at < bytes.length; block++) {
        if (abandon.raised)
          throw writeAbandoned(
            transport.name,
            at,
            'the controller holds a part of the program and stays in its boot',
          )
        const piece = bytes.subarray(at, at + most)
        await again(
          () => unit.transfer(block, piece),
          () => void retries++,
        )
        at += piece.length
        await report({ done: at, total: bytes.length, unit: 'bytes', retries })
      }
      await end()
    },
    async verify(address, bytes) {
      await enter()
      return checksumVerification(bytes, async (offset, length) => {
        const asked = range(address + offset, length)
        const answer = await again(() => unit.startRoutine(papers.checkRoutine, asked))
        return answer.length === 4 ? hexNumber(new DataView(answer.slice().buffer).getUint32(0), 8) : ''
      })
    },
    async leave() {
      await enter()
      await unit.reset(1)
    },
  }
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
