import { hexNumber, Problem, type Clock, hexText } from '../../kernel'
import type { DapAdapter } from './adapter'
import {
  blockWords,
  dapCommand,
  dapPin,
  decodeBlockAnswer,
  decodeTransferAnswer,
  encodePins,
  encodeBlock32,
  encodeTransfer,
  type DapAccess,
} from './dap-packets'
import {
  accessControl,
  ap,
  clearErrors,
  controlBits,
  dp,
  incrementSpan,
  lineReset,
  toSerialWire,
  wireAck,
  type WireRequest,
} from './serial-wire'

/** Where an access port's identity stands: bank and register within it (C2.6.1). */
const [identityBank, identityRegister] = [ap.id & 0xf0, (ap.id & 0xf) as WireRequest['register']]
/** How often the adapter repeats an access that the unit answers with "wait". */
const waitRetries = 4096

/** A unit's memory through its debug port. Addresses are of whole words unless said otherwise. */
export interface DebugPort {
  /** The debug port's identity, read at the connection. */
  readonly identity: number
  /** Holds the unit's reset, and lets go of it. */
  holdReset(): Promise<void>
  releaseReset(): Promise<void>
  read(address: number): Promise<number>
  write(address: number, value: number): Promise<void>
  /** @param length bytes, whole words. */
  readBlock(address: number, length: number): Promise<Uint8Array>
  /** @param width bytes of one access: a flash controller may want halves of words. */
  writeBlock(address: number, bytes: Uint8Array, width?: 2 | 4): Promise<void>
}

/**
 * Joins a unit: serial wire chosen, line reset, identity read, debug domain powered, errors cleared.
 * @param accessPort the one that leads to the memory.
 * @param underReset its reset is held from before the first bit, until `releaseReset` is called.
 * @throws Problem `debug-no-unit`, `debug-fault`, `debug-wait`, `debug-no-power`, `debug-no-access-port`.
 */
export async function openDebugPort(
  adapter: DapAdapter,
  clock: Pick<Clock, 'sleep'>,
  hertz: number,
  { accessPort = 0, underReset = false }: { accessPort?: number; underReset?: boolean } = {},
): Promise<DebugPort> {
  const thing = adapter.name
  const command = async (...bytes: number[]) => {
    const answer = await adapter.exchange(Uint8Array.from(bytes))
    if (answer[1] !== 0) throw refusedByAdapter(thing, bytes[0]!)
  }
  const sequence = (bytes: Uint8Array) => command(dapCommand.sequence, bytes.length * 8, ...bytes)

  const connected = await adapter.exchange(Uint8Array.of(dapCommand.connect, 1))
  if (connected[1] !== 1) throw refusedByAdapter(thing, dapCommand.connect)
  await command(dapCommand.clock, hertz & 255, (hertz >> 8) & 255, (hertz >> 16) & 255, hertz >>> 24)
  if (underReset) await adapter.exchange(encodePins(0, dapPin.reset))
  await command(dapCommand.transferConfigure, 0, waitRetries & 255, waitRetries >> 8, 0, 0)
  await command(dapCommand.wireConfigure, 0)
  await sequence(lineReset)
  await sequence(toSerialWire)
  await sequence(lineReset)
  await sequence(Uint8Array.of(0))

  const transfer = async (accesses: readonly DapAccess[], at?: number): Promise<number[]> => {
    const done = decodeTransferAnswer(await adapter.exchange(encodeTransfer(accesses)))
    if (!done || done.ack !== wireAck.ok || done.count !== accesses.length) {
      throw await faultOf(done?.ack ?? wireAck.none, at)
    }
    // A report of full length carries bytes after the answer that mean nothing.
    return done.words.slice(0, accesses.filter(({ read }) => read).length)
  }
  const dpRead = (register: number) =>
    transfer([{ port: 'dp', read: true, register: register as WireRequest['register'] }]).then(
      ([word]) => word!,
    )
  const dpWrite = (register: number, value: number) =>
    transfer([{ port: 'dp', read: false, register: register as WireRequest['register'], value }])
  /** After a fault the sticky error is cleared, or every later access would fail on it. */
  const faultOf = async (ack: number, at?: number): Promise<Problem> => {
    const place = at === undefined ? {} : { place: { at: `0x${hexNumber(at, 8)}` } }
    if ((ack & 7) === wireAck.wait) {
      await adapter.exchange(Uint8Array.of(dapCommand.writeAbort, 0, 1, 0, 0, 0))
      return trouble('debug-wait', thing, 'the unit asks to wait and does not come back', place)
    }
    if ((ack & 7) === wireAck.fault) {
      await adapter.exchange(Uint8Array.of(dapCommand.writeAbort, 0, clearErrors, 0, 0, 0))
      return trouble('debug-fault', thing, 'the unit refuses this place in its memory', place)
    }
    return new Problem({
      kind: 'debug-no-unit',
      thing,
      ...place,
      says: 'no unit answers on the debug port',
      found: 'no acknowledge',
      remedy: 'Look at ground, clock and data in this order, and whether the unit has its one supply.',
    })
  }

  const identity = await dpRead(dp.id)
  await dpWrite(dp.abort, clearErrors)
  await dpWrite(dp.select, 0)
  await dpWrite(dp.control, (controlBits.debugPowerUp | controlBits.systemPowerUp) >>> 0)
  const up = (controlBits.debugPowerIsUp | controlBits.systemPowerIsUp) >>> 0
  for (let tries = 0; ((await dpRead(dp.control)) & up) >>> 0 !== up; tries++) {
    if (tries === 20) throw trouble('debug-no-power', thing, 'the unit does not power its debug part up')
    await clock.sleep(5)
  }

  // The identity of an access port that there is not reads as nothing (C1.1.2); its registers stand in the last bank.
  const chosen = (accessPort << 24) >>> 0
  await dpWrite(dp.select, (chosen | identityBank) >>> 0)
  const [apIdentity] = await transfer([{ port: 'ap', read: true, register: identityRegister }])
  if (apIdentity === 0)
    throw new Problem({
      kind: 'debug-no-access-port',
      thing,
      says: `the unit has no access port ${accessPort}`,
      remedy: 'Look in its manual which one leads to its memory; it stands at the link’s "accessPort".',
    })
  await dpWrite(dp.select, chosen)

  let width: 0 | 2 | 4 = 0
  const aim = (address: number, bytes: 2 | 4): DapAccess[] => {
    const accesses: DapAccess[] = []
    if (width !== bytes) {
      accesses.push({ port: 'ap', read: false, register: ap.control, value: accessControl(bytes) })
      width = bytes
    }
    accesses.push({ port: 'ap', read: false, register: ap.address, value: address >>> 0 })
    return accesses
  }
  const data = (read: boolean): WireRequest => ({ port: 'ap', read, register: ap.data })
  /** Words through the data register, packet by packet, none across the edge of the auto-increment. */
  const block = async (
    address: number,
    count: number,
    bytes: 2 | 4,
    each: (from: number, max: number) => { packet: Uint8Array; count: number },
    take: (words: number[], from: number) => void,
    max: number,
  ) => {
    for (let done = 0; done < count;) {
      const at = address + done * bytes
      const span = (incrementSpan - (at & (incrementSpan - 1))) / bytes
      await transfer(aim(at, bytes), at)
      for (let within = 0; within < Math.min(span, count - done);) {
        const here = each(done + within, Math.min(max, span - within, count - done - within))
        const answer = decodeBlockAnswer(await adapter.exchange(here.packet))
        if (!answer || answer.ack !== wireAck.ok || answer.count !== here.count) {
          width = 0
          throw await faultOf(answer?.ack ?? wireAck.none, at + within * bytes)
        }
        take(answer.words.slice(0, here.count), done + within)
        within += here.count
      }
      done += Math.min(span, count - done)
    }
    // An access port posts its last access: only the next one tells whether it went well.
    await dpRead(dp.buffer)
  }
  const limits = blockWords(adapter.packetBytes)

  return {
    identity,
    async holdReset() {
      await adapter.exchange(encodePins(0, dapPin.reset))
    },
    async releaseReset() {
      await adapter.exchange(encodePins(dapPin.reset, dapPin.reset))
    },
    async read(address) {
      const words = await transfer([...aim(address, 4), data(true)], address)
      return words[0]!
    },
    async write(address, value) {
      await transfer(
        [...aim(address, 4), { ...data(false), value }, { port: 'dp', read: true, register: dp.buffer }],
        address,
      )
    },
    async readBlock(address, length) {
      const bytes = new Uint8Array(length)
      const view = new DataView(bytes.buffer)
      await block(
        address,
        length / 4,
        4,
        (_, count) => ({ packet: encodeBlock32(data(true), count), count }),
        (words, from) => words.forEach((word, index) => view.setUint32((from + index) * 4, word, true)),
        limits.read,
      )
      return bytes
    },
    async writeBlock(address, bytes, size = 4) {
      const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.length)
      const lane = (index: number) =>
        size === 4
          ? view.getUint32(index * 4, true)
          : // A half of a word goes on the lane that its address says (C2.2.6).
            (view.getUint16(index * 2, true) << ((address + index * 2) & 2 ? 16 : 0)) >>> 0
      await block(
        address,
        bytes.length / size,
        size,
        (from, count) => ({
          packet: encodeBlock32(
            data(false),
            Array.from({ length: count }, (_, index) => lane(from + index)),
          ),
          count,
        }),
        () => {},
        limits.write,
      )
    },
  }
}

function trouble(kind: string, thing: string, says: string, place: object = {}): Problem {
  return new Problem({
    kind,
    thing,
    ...place,
    says,
    remedy:
      'Unplug the unit and the adapter, count to five, join them again; a lower clock helps long wires.',
  })
}

function refusedByAdapter(thing: string, command: number): Problem {
  return new Problem({
    kind: 'dap-refused',
    thing,
    says: 'the adapter refuses a command',
    found: hexText(command),
    remedy: 'Unplug it, count to five, plug it in again; close other programs that use it.',
  })
}
