import { instructionOf, type DriveOf, type InstructionSlots } from '../../family'
import { hexNumber, hexText, Problem, type Clock } from '../../kernel'
import type { SpiExchange, SpiPort } from '../spi'
import type { Fuse } from './fuses'

type InSystem = DriveOf<'in-system'>

/** Clock of the port where a profile names none: a fifth of the unit's, under a quarter with something to spare, Hz. */
export const portHertz = ({ hertz, unitHertz }: Pick<InSystem, 'hertz' | 'unitHertz'>): number =>
  hertz ?? Math.floor(unitHertz / 5)

/** Instructions that go in one go, so that a packet of the adapter is full. */
const atOnce = 256

/** A unit held in reset, whose six-line port has been let in. */
export interface Programmer {
  /** What it says it is, as digits. */
  signature(): Promise<string>
  read(address: number, length: number, report: (done: number) => Promise<void> | void): Promise<Uint8Array>
  /** Erases the whole memory; a unit knows no smaller piece on this port. */
  eraseAll(): Promise<void>
  /** Programs one page. */
  program(address: number, bytes: Uint8Array): Promise<void>
  fuse(fuse: Fuse): Promise<number>
  setFuse(fuse: Fuse, value: number): Promise<void>
}

const settleFaultMs = 50

/**
 * Lets the port in: reset is held, and the unit echoes in the right place that it is in step. Where it does not, reset is
 * given a pulse and it is asked again.
 * @throws Problem `in-system-silent` where it never does.
 */
export async function enterInSystem(port: SpiPort, clock: Clock, drive: InSystem): Promise<Programmer> {
  const { instructions, wordAddresses = false, tries = 8, settleMs = 20, pulseMs = 2 } = drive
  const enable = instructionOf(instructions.enable)
  const echo = parseInt(drive.echo, 16)
  for (let attempt = 0; ; attempt++) {
    await port.reset(true)
    await clock.sleep(settleMs)
    const [back] = await port.exchange([{ send: enable.send({}), read: enable.read }])
    const heard = back![enable.resultAt ?? 0] ?? null
    if (heard === echo) break
    if (attempt + 1 === tries) {
      throw new Problem({
        kind: 'in-system-silent',
        thing: port.name,
        says: 'the unit does not let its six-line port in',
        expected: `${hexText(echo)} as it is asked`,
        found: heard === null ? 'nothing' : hexText(heard),
        remedy:
          'Look at reset, clock and both data lines; give it its supply; lower the clock under a quarter of the unit’s. A fuse may have shut the port.',
      })
    }
    await port.reset(false)
    await clock.sleep(pulseMs)
  }
  const run = async (list: readonly { text: string; slots?: InstructionSlots }[]) => {
    const parts = list.map(({ text, slots = {} }): { turn: SpiExchange; at: number | null } => {
      const { send, read, resultAt } = instructionOf(text)
      return { turn: { send: send(slots), read }, at: resultAt }
    })
    const back = await port.exchange(parts.map(({ turn }) => turn))
    return parts.map(({ at }, index) => (at === null ? 0 : back[index]![at]!))
  }
  const one = async (text: string, slots?: InstructionSlots) =>
    (await run([{ text, ...(slots ? { slots } : {}) }]))[0]!
  const settle = async (what: string, usualMs: number, address?: number) => {
    await clock.sleep(usualMs)
    const { busy } = instructions
    if (!busy) return
    for (let waited = 0; (await one(busy.ask)) & parseInt(busy.mask, 16); waited++) {
      if (waited > usualMs * 20 + settleFaultMs) {
        throw new Problem({
          kind: 'in-system-busy',
          thing: port.name,
          ...(address === undefined ? {} : { place: { at: hexText(address, 6) } }),
          says: `the unit stays busy when it should ${what}`,
          expected: `done within ${usualMs * 20 + settleFaultMs} ms`,
          remedy:
            'Take its supply away for five seconds, look at the six wires, and write again from the beginning.',
        })
      }
      await clock.sleep(1)
    }
  }
  /** The instruction and address of a byte: where addresses are words, low and high byte have one each. */
  const place = (address: number, low: string, high: string | undefined) =>
    wordAddresses
      ? { text: address & 1 ? high! : low, slots: { address: address >>> 1 } }
      : { text: low, slots: { address } }

  return {
    async signature() {
      const count = drive.signatureBytes ?? 3
      const bytes = await run(
        Array.from({ length: count }, (_, index) => ({ text: instructions.signature, slots: { index } })),
      )
      return bytes.map((byte) => hexNumber(byte, 2)).join('')
    },
    async read(address, length, report) {
      const bytes = new Uint8Array(length)
      for (let done = 0; done < length; done += atOnce) {
        const piece = Math.min(atOnce, length - done)
        bytes.set(
          await run(
            Array.from({ length: piece }, (_, index) =>
              place(address + done + index, instructions.read, instructions.readHigh),
            ),
          ),
          done,
        )
        await report(Math.min(length, done + atOnce))
      }
      return bytes
    },
    async eraseAll() {
      await one(instructions.erase)
      await settle('erase', drive.eraseMs)
    },
    async program(address, bytes) {
      await run(
        [...bytes].map((data, index) => {
          const { text, slots } = place(address + index, instructions.load, instructions.loadHigh)
          return { text, slots: { ...slots, data } }
        }),
      )
      await one(instructions.program, { address: wordAddresses ? address >>> 1 : address })
      await settle('program', drive.programMs, address)
    },
    fuse: ({ read }) => one(read),
    async setFuse({ write }, value) {
      await one(write, { data: value })
      await settle('keep a fuse', drive.fuseMs ?? drive.programMs)
    },
  }
}
