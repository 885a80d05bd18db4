import type { DriveOf } from '../../family'
import { concatBytes, firstDifference, hexText, Problem, type Clock } from '../../kernel'
import { readBackVerification } from '../check'
import { writeAbandoned, type Loader, type Range } from '../loader'
import { adapterPassing, joinOrNobody } from '../join'
import { retryPassing } from '../retry-passing'
import { portHertz, enterInSystem, type Programmer } from './programmer'
import type { SpiPort } from '../spi'
import { fuseText, type Fuse } from './fuses'

/** How a processor on six lines is written. */
export interface InSystemSettings {
  drive: DriveOf<'in-system'>
  /** Stretches that hold firmware; the erase takes all of them. */
  regions: readonly Range[]
  /** What else its memory holds, by name: an erase would take that too. */
  others: readonly string[]
  pageBytes: number
  erasedByte: number
}

/** A loader that writes over six lines, with fuses. */
export interface InSystemLoader extends Loader {
  signature(): Promise<string>
  peek(address: number, length: number): Promise<Uint8Array>
  fuses(): Promise<{ fuse: Fuse; value: number }[]>
  setFuse(id: string, value: number): Promise<void>
  release(): Promise<void>
}

const tries = 4
const passing = [...adapterPassing, 'in-system-silent']

/** A unit held in reset and programmed over its six lines: supply, ground, reset, clock, data in, data out. */
export function inSystemLoader(
  name: string,
  open: () => Promise<SpiPort>,
  clock: Clock,
  { drive, regions, others, pageBytes, erasedByte }: InSystemSettings,
): InSystemLoader {
  let port: SpiPort | null = null
  let unit: Programmer | null = null
  const join = async () => {
    unit = null
    port ??= await open()
    const joined = await enterInSystem(port, clock, drive)
    const said = await joined.signature()
    if (!drive.signatures.includes(said)) {
      throw new Problem({
        kind: 'in-system-other',
        thing: name,
        says: 'another processor answers than the profile names',
        expected: drive.signatures.join(' or '),
        found: said,
        remedy:
          'Nothing was written. Look at the marking on the chip; where wires are long, lower the clock and read it again.',
      })
    }
    unit = joined
    return joined
  }
  /** Does a piece, let in anew where it fell out of step. */
  const again = <T>(act: (joined: Programmer) => Promise<T>, onRetry: () => unknown = () => {}) =>
    retryPassing(async () => act(unit ?? (await join())), {
      tries,
      passing,
      onRetry: () => {
        unit = null
        onRetry()
      },
    })
  const inside = ({ address, length }: Range) => {
    if (regions.some((each) => address >= each.address && address + length <= each.address + each.length))
      return
    throw new Problem({
      kind: 'in-system-outside',
      thing: name,
      place: { at: hexText(address, 6) },
      says: 'the image does not lie in the program memory',
      found: `${hexText(address, 6)} to ${hexText(address + length, 6)}`,
      remedy: 'Nothing was written. Take the image for this processor.',
    })
  }
  const readUp = (range: Range, report: (done: number) => Promise<void> | void) => {
    inside(range)
    return again((joined) => joined.read(range.address, range.length, report))
  }
  const lock = drive.fuses?.find((fuse) => fuse.locks)
  const isLocked = async () => {
    if (!lock) return false
    const value = await again((joined) => joined.fuse(lock))
    return lock.bits.some(
      ({ bit, shutsReadingAt }) => shutsReadingAt !== undefined && ((value >> bit) & 1) === shutsReadingAt,
    )
  }
  const letGo = async () => {
    const held = port
    port = null
    unit = null
    await held?.release()
  }
  const fuseOf = (id: string): Fuse => {
    const fuse = drive.fuses?.find((each) => each.id === id)
    if (!fuse) throw new TypeError(`no fuse ${id}`)
    return fuse
  }

  return {
    can: { read: true, erase: true, verify: 'read-back', resume: false },
    attach: () => joinOrNobody(join, 'in-system-silent'),
    signature: () => again((joined) => joined.signature()),
    identify: async () => [`Signature ${await again((joined) => joined.signature())}`],
    protected: isLocked,
    async eraseAll(consent) {
      if (consent !== 'erase the whole unit') throw new TypeError('asked without consent')
      await again((joined) => joined.eraseAll())
    },
    peek: (address, length) => readUp({ address, length }, () => {}),
    read: (range, report) =>
      readUp(range, (done) => report({ done, total: range.length, unit: 'bytes', retries: 0 })),
    async erase(range, report) {
      inside(range)
      if (others.length > 0) {
        throw new Problem({
          kind: 'in-system-takes-more',
          thing: name,
          says: 'over six lines the whole memory is erased, and more than the program lies in it',
          found: others.join(', '),
          remedy:
            'Nothing was erased. Write it over another link, or take an image that holds all of it and a profile that says so.',
        })
      }
      // Read once more at the last moment: a unit that fell out of step is not told to erase.
      await again((joined) => joined.signature())
      if (await isLocked()) throw shut(name)
      await again((joined) => joined.eraseAll())
      const total = Math.ceil(range.length / pageBytes)
      await report({ done: total, total, unit: 'sectors', retries: 0 })
    },
    async write(address, bytes, report, abandon) {
      inside({ address, length: bytes.length })
      let retries = 0
      for (let done = 0; done < bytes.length;) {
        if (abandon.raised) throw writeAbandoned(name, done, 'the unit holds a part of the image')
        const at = address + done
        const part = bytes.subarray(done, done + pageBytes - (at % pageBytes))
        const whole = (part.length & 1) === 1 ? concatBytes([part, Uint8Array.of(erasedByte)]) : part
        if (part.some((byte) => byte !== erasedByte))
          await again(
            (joined) => joined.program(at, whole),
            () => retries++,
          )
        done += part.length
        await report({ done, total: bytes.length, unit: 'bytes', retries })
      }
    },
    async verify(address, bytes) {
      const back = await readUp({ address, length: bytes.length }, () => {})
      return readBackVerification(firstDifference(bytes, back), bytes, (offset) =>
        hexText(address + offset, 6),
      )
    },
    fuses: () =>
      again(async (joined) => {
        const all: { fuse: Fuse; value: number }[] = []
        for (const fuse of drive.fuses ?? []) all.push({ fuse, value: await joined.fuse(fuse) })
        return all
      }),
    async setFuse(id, value) {
      const fuse = fuseOf(id)
      await again((joined) => joined.setFuse(fuse, value))
      const now = await again((joined) => joined.fuse(fuse))
      if (now === value) return
      throw new Problem({
        kind: 'fuse-not-taken',
        thing: name,
        place: { at: fuse.name },
        says: 'a fuse byte does not hold what was written',
        expected: fuseText(fuse, value),
        found: fuseText(fuse, now),
        remedy: 'Do not power down. Look at the six wires and the supply, and write it again.',
      })
    },
    startApplication: letGo,
    release: letGo,
  }
}

const shut = (thing: string) =>
  new Problem({
    kind: 'debug-protected',
    thing,
    says: 'the unit keeps its memory from being read',
    remedy: 'Taking that away erases everything in the unit: it needs your word twice.',
  })

/** What a person is told of the port's clock: under a quarter of the unit's, by how much. */
export const portClockText = (drive: DriveOf<'in-system'>): string =>
  `${portHertz(drive) / 1000} kHz, under a quarter of the unit’s ${drive.unitHertz / 1000} kHz`
