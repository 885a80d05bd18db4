import { isProblem, type Clock } from '@bench-wake/core/kernel'
import {
  type Edge,
  type Port,
  type Transport,
  decodeKwp,
  encodeKwp,
  firstKeyByte,
  usualShape,
  type KwpShape,
  kwpLength,
  readExactly,
  readWakeUp,
} from '@bench-wake/core/link'

export interface KwpUnitForm {
  address: number
  /** Which kinds of waking it knows. */
  wakes: readonly ('fast' | 'five-baud')[]
  /** The next change of the line's level. */
  nextEdge(): Promise<Edge>
  /** How its messages look; with addresses and either length where nothing is said. */
  shape?: KwpShape
  /** Its key bytes tell of answers up to a second, and that is when they come. */
  isSlow?: boolean
  /** It keeps the times of the standard, and says so to whoever asks for others. */
  keepsTimes?: boolean
}

/** An answer of a slow controller begins this late, ms. */
const slowMs = 900

/**
 * A controller's half of the line as a transport for its services: waits to be woken, answers the services of the line
 * itself (start 81, stop 82, timing 83), and hands on the rest.
 * @param port its own end; it hears only what the tester says.
 */
export function kwpUnit(port: Port, clock: Clock, form: KwpUnitForm): Transport {
  const { shape = usualShape, isSlow = false } = form
  const keyBytes = [firstKeyByte(shape, isSlow), 0x8f] as const
  let awake = false
  let tester = 0xf1
  let edges: Edge[] = []

  const watch = async () => {
    for (;;) {
      const edge = await form.nextEdge()
      // A low after a rest begins a new pattern.
      if (edge.low && edge.at - (edges.at(-1)?.at ?? -Infinity) > 2 * 200 * 9) edges = []
      if (edge.low && awake) {
        awake = false
        edges = []
      }
      edges.push(edge)
      if (edge.low) continue
      const seen = edges.length
      clock.after(24, () => {
        if (edges.length !== seen || readWakeUp(edges, clock.now()) !== 'fast') return
        edges = []
        awake = form.wakes.includes('fast')
      })
      clock.after(200 * 2, () => {
        const heard = edges.length === seen ? readWakeUp(edges, clock.now()) : null
        if (heard === null || heard === 'fast') return
        edges = []
        if (heard.address === form.address && form.wakes.includes('five-baud')) void greet()
      })
    }
  }
  const greet = async () => {
    await clock.sleep(80)
    await port.write(Uint8Array.of(0x55))
    for (const key of keyBytes) {
      await clock.sleep(10)
      await port.write(Uint8Array.of(key))
    }
    awake = true
    greeting = true
  }
  let greeting = false
  void watch().catch(() => {})

  const next = async (timeoutMs: number): Promise<Uint8Array | null> => {
    for (;;) {
      const head = await port.read(1, timeoutMs)
      if (!head) return null
      if (!awake) continue
      if (greeting) {
        greeting = false
        if (head[0] === (~keyBytes[1] & 255)) {
          await clock.sleep(30)
          await port.write(Uint8Array.of(~form.address & 255))
        } else awake = false
        continue
      }
      let frame = head
      while (kwpLength(frame) !== frame.length) {
        const more = await readExactly(port, 1, 25)
        if (!more) break
        const longer = new Uint8Array(frame.length + 1)
        longer.set(frame)
        longer.set(more, frame.length)
        frame = longer
      }
      try {
        const read = decodeKwp(frame)
        // The start of communication comes with addresses, whatever is agreed on by it.
        const isStart = read.data[0] === 0x81
        if ((read.target !== undefined) !== (shape.addresses || isStart)) continue
        if (read.target !== undefined && read.target !== form.address) continue
        if (!isStart && frame.length !== encodeKwp(read, shape).length) continue
        tester = read.source ?? tester
        return read.data
      } catch (error) {
        // What does not hold is not answered (clause 6.3).
        if (!isProblem(error, 'kwp-frame')) throw error
      }
    }
  }
  const send = async (data: Uint8Array) => {
    // P2: an answer may begin at once where P2min is 0; the wire is turned round meanwhile.
    await clock.sleep(isSlow && data[0] !== 0xc1 ? slowMs : 2)
    const own = data[0] === 0xc1 ? usualShape : shape
    const frame = encodeKwp({ target: tester, source: form.address, data }, own)
    // Byte by byte on the wire: the tester hears the first long before the last.
    for (let at = 0; at < frame.length; at += 16) await port.write(frame.subarray(at, at + 16))
  }

  return {
    name: port.name,
    send,
    async receive(timeoutMs) {
      for (;;) {
        const data = await next(timeoutMs)
        if (!data) return null
        switch (data[0]) {
          case 0x81:
            await send(Uint8Array.of(0xc1, ...keyBytes))
            break
          case 0x82:
            await send(Uint8Array.of(0xc2))
            awake = false
            break
          case 0x83:
            await send(form.keepsTimes ? Uint8Array.of(0x7f, 0x83, 0x11) : Uint8Array.of(0xc3, data[1] ?? 0))
            break
          default:
            return data
        }
      }
    },
    async clear() {},
  }
}
