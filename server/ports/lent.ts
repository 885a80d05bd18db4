import { bytesOfHex, hexOf, Problem, type Clock, type ProblemFacts } from '@bench-wake/core/kernel'
import {
  Inbox,
  portClosed,
  portLost,
  type Channel,
  type ControlSetup,
  type Port,
  type SerialSettings,
  type UsbPort,
} from '@bench-wake/core/link'
import { newId } from '../new-id'
import { notFound } from '../problem'

/*
 * Ports of the person's own computer, lent to this server by the page: Chromium's Web Serial and WebUSB. The server sends
 * calls over the page's event stream, the page does them and answers; bytes that come are sent as they come. What stands
 * above sees the same Port and UsbPort as anywhere.
 */

/** A thing the page is asked to do; bytes are hexadecimal. */
export interface LentCall {
  seq: number
  call: string
  args: unknown[]
}
export type LentAnswer = { value?: unknown } | { problem: ProblemFacts }

export interface LentForm {
  name: string
  kind: Channel['kind']
  usb?: { vendorId: string; productId: string }
}

/** A page that is this slow is gone: its laptop sleeps, or its tab was closed without a word. */
const answersWithinMs = 15_000

/** No bench has more. */
const maxPorts = 16
/** A page that lends a port listens for its calls at once, or not at all, ms. */
const joinsWithinMs = 30_000

interface Lent extends LentForm {
  id: string
  waiting: Map<number, { settle(value: unknown): void; fail(error: Error): void }>
  queue: LentCall[]
  tell: (call: LentCall) => void
  heard: (bytes: Uint8Array) => void
  lost: () => void
  seq: number
  /** The last piece of what it heard. */
  heardSeq: number
  /** The page has come for its calls. */
  joined: boolean
}

export class LentPorts {
  private readonly lent = new Map<string, Lent>()

  constructor(
    /** Calls off by the returned function. */
    private readonly after: (ms: number, act: () => void) => () => void,
  ) {}

  list(): ({ id: string } & LentForm)[] {
    return [...this.lent.values()].map(({ id, name, kind, usb }) => ({
      id,
      name,
      kind,
      ...(usb ? { usb } : {}),
    }))
  }

  /** @throws Problem `too-many-ports`. */
  lend(form: LentForm): string {
    if (this.lent.size >= maxPorts) {
      throw new Problem({
        kind: 'too-many-ports',
        says: `${maxPorts} ports are lent already`,
        remedy: 'Take one back first.',
      })
    }
    const id = newId('lent')
    const lent: Lent = {
      ...form,
      id,
      waiting: new Map(),
      queue: [],
      tell: (call) => lent.queue.push(call),
      heard: () => {},
      lost: () => {},
      seq: 0,
      heardSeq: 0,
      joined: false,
    }
    this.lent.set(id, lent)
    this.after(joinsWithinMs, () => {
      if (!lent.joined) this.end(id)
    })
    return id
  }

  private at(id: string): Lent {
    const lent = this.lent.get(id)
    if (!lent) throw notFound('lent port', id)
    return lent
  }

  /** @throws Problem `not-found` for a port that nobody lends. */
  mustBeLent(id: string): void {
    this.at(id)
  }

  /** The page listens for calls; what was asked before it came is told first. */
  listen(id: string, tell: (call: LentCall) => void): void {
    const lent = this.at(id)
    lent.tell = tell
    lent.joined = true
    for (const call of lent.queue.splice(0)) tell(call)
  }

  answer(id: string, seq: number, answer: LentAnswer): void {
    const { waiting } = this.at(id)
    const asked = waiting.get(seq)
    waiting.delete(seq)
    if ('problem' in answer) asked?.fail(new Problem(answer.problem))
    else asked?.settle(answer.value)
  }

  /**
   * Bytes that came, piece by piece. One that is sent again is taken once; where one is missing the port is lost, because
   * the bytes after it would be an answer that no unit gave.
   * @param seq counts the pieces from 1.
   */
  heard(id: string, seq: number, bytes: Uint8Array): void {
    const lent = this.at(id)
    if (seq <= lent.heardSeq) return
    if (seq > lent.heardSeq + 1) {
      this.end(id)
      throw portLost(lent.name, 'bytes that it heard are missing')
    }
    lent.heardSeq = seq
    lent.heard(bytes)
  }

  /** The page is gone, or takes its port back. */
  end(id: string): void {
    const lent = this.lent.get(id)
    if (!lent) return
    this.lent.delete(id)
    for (const { fail } of lent.waiting.values()) fail(portLost(lent.name, 'the page that lent it is gone'))
    lent.waiting.clear()
    lent.lost()
  }

  private ask(lent: Lent, call: string, ...args: unknown[]): Promise<unknown> {
    if (!this.lent.has(lent.id)) return Promise.reject(portLost(lent.name, 'the page that lent it is gone'))
    const seq = ++lent.seq
    return new Promise((settle, fail) => {
      const callOff = this.after(answersWithinMs, () => {
        lent.waiting.delete(seq)
        fail(portLost(lent.name, 'the page that lent it does not answer'))
      })
      lent.waiting.set(seq, {
        settle(value) {
          callOff()
          settle(value)
        },
        fail(error) {
          callOff()
          fail(error)
        },
      })
      lent.tell({ seq, call, args })
    })
  }

  connect(id: string, clock: Clock): Channel {
    const lent = this.at(id)
    return lent.kind === 'serial'
      ? { kind: 'serial', port: this.serial(lent, clock) }
      : { kind: 'usb', port: this.usb(lent) }
  }

  private serial(lent: Lent, clock: Clock): Port {
    const { name } = lent
    const inbox = new Inbox(clock)
    let settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
    let state: 'closed' | 'open' | 'lost' = 'closed'
    lent.heard = (bytes) => inbox.deliver(bytes)
    lent.lost = () => {
      state = 'lost'
      inbox.fail(portLost(name, 'the page that lent it is gone'))
    }
    const opened = () => {
      if (state === 'lost') throw portLost(name)
      if (state === 'closed') throw portClosed(name)
    }
    return {
      name,
      get settings() {
        return settings
      },
      open: async (wanted) => {
        inbox.clear()
        await this.ask(lent, 'open', wanted)
        settings = wanted
        state = 'open'
      },
      close: async () => {
        if (state !== 'open') return
        state = 'closed'
        inbox.fail(portClosed(name))
        await this.ask(lent, 'close').catch(() => {})
      },
      async read(max, timeoutMs) {
        opened()
        return inbox.read(max, timeoutMs)
      },
      write: async (bytes) => {
        opened()
        await this.ask(lent, 'write', hexOf(bytes))
      },
      setLines: async (lines) => {
        opened()
        await this.ask(lent, 'lines', lines)
      },
    }
  }

  private usb(lent: Lent): UsbPort {
    const bytes = async (call: string, ...args: unknown[]) =>
      bytesOfHex(String((await this.ask(lent, call, ...args)) ?? ''))
    const done = async (call: string, ...args: unknown[]) => {
      await this.ask(lent, call, ...args)
    }
    return {
      name: lent.name,
      open: () => done('open'),
      close: () => done('close').catch(() => {}),
      claimInterface: (number, alternate) => done('claimInterface', number, alternate),
      controlIn: (setup: ControlSetup, length) => bytes('controlIn', setup, length),
      controlOut: (setup, data = new Uint8Array(0)) => done('controlOut', setup, hexOf(data)),
      transferIn: (endpoint, length) => bytes('transferIn', endpoint, length),
      transferOut: (endpoint, data) => done('transferOut', endpoint, hexOf(data)),
      reset: () => done('reset'),
      reopen: (timeoutMs) => done('reopen', timeoutMs),
    }
  }
}
