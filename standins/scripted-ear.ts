import { readBytes, readEither, type FrameForm, type LinkStep, type SlotValue } from '@bench-wake/core/family'
import { concatBytes } from '@bench-wake/core/kernel'
import {
  decodeFrame,
  frameDialect,
  frameEnd,
  unstuff,
  type FrameDialect,
  type Port,
} from '@bench-wake/core/link'
import { hear, type Heard } from './heard'

/** How long nothing has to come until bytes of unknown length are whole, ms. */
const silenceMs = 30

/** What a scripted unit hears: bytes of its line, held against what a bench would send. */
export class Ear {
  /** What came and is not used yet. */
  buffer: Uint8Array = new Uint8Array(0)
  /** What the bench has said in its slots. */
  slots: Record<string, SlotValue> = {}
  /** Bytes of the image in what was said last. */
  data: Uint8Array = new Uint8Array(0)
  /** Number of the frame that was heard last: its answer has the same. */
  sequence = 0
  readonly dialect: FrameDialect | null

  constructor(
    private readonly port: Port,
    frame: FrameForm | undefined,
  ) {
    this.dialect = frame ? frameDialect(frame) : null
  }

  /** How far what was heard agrees with a step that sends. */
  hearStep(step: LinkStep): Heard {
    if (step.do === 'frame') {
      const frame = this.frameHeard()
      if (frame === null) return { state: 'so-far' }
      if (!frame.payload) return { state: 'no' }
      const heard = hear(readBytes(step.bytes), frame.payload, this.known(), true)
      return heard.state === 'whole' ? { ...heard, used: frame.used } : heard
    }
    if (step.do === 'send')
      return hear(readEither(step as { text?: string; bytes?: string }), this.buffer, this.known())
    return { state: 'whole', used: 0, slots: {} }
  }

  /** What the bench could only know from the unit itself is compared; everything else is taken as it comes. */
  private known(): Record<string, SlotValue> {
    const { component: _, ...rest } = this.slots
    return Object.fromEntries(
      Object.entries(rest).filter(([slot]) => slot === 'staging' || slot === 'length'),
    )
  }

  private frameHeard(): { payload: Uint8Array | null; used: number; sequence: number } | null {
    const { dialect, buffer } = this
    if (!dialect) return { payload: null, used: 0, sequence: 0 }
    let bytes: Uint8Array | null
    let used: number
    if (dialect.delimiter !== null) {
      let from = 0
      while (buffer[from] === dialect.delimiter) from++
      const end = buffer.indexOf(dialect.delimiter, from)
      if (end < 0) return null
      bytes = unstuff(buffer.subarray(from, end), dialect.form.escape as 'slip' | 'hdlc')
      used = end + 1
    } else {
      const end = frameEnd(dialect, buffer)
      if (end === null || (end > 0 && buffer.length < end)) return null
      if (end < 0) return { payload: null, used: 0, sequence: 0 }
      bytes = buffer.subarray(0, end)
      used = end
    }
    const read = bytes ? decodeFrame(dialect, bytes) : { fault: '' }
    if ('fault' in read) return { payload: null, used, sequence: 0 }
    return { payload: read.payload, used, sequence: read.sequence ?? 0 }
  }

  /** Waits for what a step sends. @returns false where something else came. */
  async take(step: LinkStep): Promise<boolean> {
    for (;;) {
      const heard = this.hearStep(step)
      if (heard.state === 'no') return false
      const whole = heard.state === 'whole' ? heard : null
      if (!whole) {
        const open = heard.state === 'so-far' ? heard.open : undefined
        if (await this.more(open ? silenceMs : Infinity)) continue
        if (!open) continue
        this.accept(open.slots, open.used)
        return true
      }
      if (step.do === 'frame') this.sequence = this.frameHeard()?.sequence ?? 0
      this.accept(whole.slots, whole.used)
      return true
    }
  }

  private accept(slots: Record<string, SlotValue>, used: number): void {
    Object.assign(this.slots, slots)
    if (slots['data'] instanceof Uint8Array) this.data = slots['data'].slice()
    this.buffer = this.buffer.slice(used)
  }

  async more(ms: number): Promise<boolean> {
    const bytes = await this.port.read(4096, ms)
    if (bytes) this.buffer = concatBytes([this.buffer, bytes])
    return bytes !== null
  }

  /** The port with what was heard and not used in front. */
  asPort(): Port {
    const { port } = this
    return {
      ...port,
      get settings() {
        return port.settings
      },
      read: async (max, ms) => {
        if (this.buffer.length === 0) return port.read(max, ms)
        const bytes = this.buffer.slice(0, max)
        this.buffer = this.buffer.slice(max)
        return bytes
      },
    }
  }
}
