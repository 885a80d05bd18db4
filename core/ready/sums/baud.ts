import { fixedText, heaviestFirst, type Finding } from '../../kernel'

/** One end of an asynchronous line: its clock and the divider that follows. */
export interface UartEnd {
  clockHertz: number
  /** Clock periods to a bit, over all dividers; 16 times the divisor where it oversamples by 16. */
  clocksPerBit: number
  /** Tolerance of the clock itself, parts per million: a crystal 50, an RC oscillator 10 000 (from memory). */
  ppm?: number
}

/** The speed that a clock and a divisor really give, baud. */
export const baudOf = ({ clockHertz, clocksPerBit }: UartEnd) => clockHertz / clocksPerBit

/** The whole divider of a clock whose rate comes nearest to a baud rate, and the error it leaves, as a share. */
export function nearestDivisor(
  clockHertz: number,
  baud: number,
  oversampling: number,
): { divisor: number; error: number } {
  const exact = clockHertz / (baud * oversampling)
  const below = Math.max(1, Math.floor(exact))
  // Nearest by rate and not by divisor: 1.45 lies nearer to 1, but its rate is 45 % off there and 27.5 % at 2.
  const [near] = [below, below + 1]
    .map((divisor) => ({ divisor, error: exact / divisor - 1 }))
    .sort((one, two) => Math.abs(one.error) - Math.abs(two.error))
  return near!
}

/** How a frame is looked at. */
export interface UartFrame {
  /** Start, data, parity and stop bits: 10 for 8N1, 11 for 8E1 or 8N2. */
  bitsInFrame: number
  /** Looks at each bit; the receiver's. */
  oversampling: number
}

const usualFrame: UartFrame = { bitsInFrame: 10, oversampling: 16 }

/**
 * Whether the receiver still samples the last bit of a frame within that bit. It starts at the falling edge of the
 * start bit and samples in the middle of each; the last of n bits is sampled n − ½ bit times later. With a receiver that
 * looks N times a bit the edge is found up to 1/N of a bit late, and a sampler that takes the middle three looks needs
 * them all inside. A receiver whose baud is off by share e from the sender's has bits 1 / (1 + e) as long: its latest
 * look, (n − ½ + 2/N) / (1 + e), stays below n when e ≥ −(½ − 2/N) / n. That is 3.75 % for ten bits looked at 16 times,
 * 3.41 % for eleven, 2.5 % for ten looked at 8 times, and nothing with 4 looks. A fast receiver has more room
 * ((n − ½ − 1/N) / (1 + e) stays above n − 1); the smaller of the two is allowed both ways. Derivation here; the
 * application notes of the trade come to "±5 % at best, 2 to 3.5 % in practice" (from memory).
 */
export function baudMargin(sender: UartEnd, receiver: UartEnd, frame: Partial<UartFrame> = {}) {
  const { bitsInFrame, oversampling } = { ...usualFrame, ...frame }
  const ppm = ((sender.ppm ?? 0) + (receiver.ppm ?? 0)) / 1e6
  const error = baudOf(receiver) / baudOf(sender) - 1
  const worst = Math.abs(error) + ppm
  const allowed = Math.max(0, (0.5 - 2 / oversampling) / bitsInFrame)
  return {
    senderBaud: baudOf(sender),
    receiverBaud: baudOf(receiver),
    error,
    worstError: worst,
    allowedError: allowed,
    lastBitInside: allowed > 0 && worst <= allowed,
  }
}

/** More than two thirds of the allowance is asking for trouble: edges are not steep on a long lead (common practice). */
export function judgeBaud(sender: UartEnd, receiver: UartEnd, frame: Partial<UartFrame> = {}): Finding {
  const { error, worstError, allowedError, lastBitInside } = baudMargin(sender, receiver, frame)
  const { bitsInFrame, oversampling } = { ...usualFrame, ...frame }
  const percent = (share: number) => `${fixedText(share * 100, 2)} %`
  const numbers = { error, worstError, allowedError }
  const level = !lastBitInside ? 'stop' : worstError > (allowedError * 2) / 3 ? 'hold' : 'go'
  return {
    rule: 'baud-error',
    level,
    says:
      allowedError === 0
        ? `Looked at ${oversampling} times a bit, no difference between the ends can be allowed.`
        : level === 'stop'
          ? `The ends differ by ${percent(worstError)}: the last bit is sampled in the next one.`
          : level === 'hold'
            ? `The ends differ by ${percent(worstError)}: it works on a short lead, and not for sure.`
            : `The ends differ by ${percent(worstError)}; the last bit is sampled right.`,
    because: `${percent(allowedError)} is allowed over ${bitsInFrame} bits looked at ${oversampling} times each; the dividers alone leave ${percent(Math.abs(error))}.`,
    ...(level === 'go' ? {} : { remedy: 'Take a slower speed, or one that both clocks divide to.' }),
    numbers,
  }
}

/** Clock behind one end of a line, as a data sheet gives it. */
export interface UartClock {
  hertz: number
  /** Looks at each bit; 16 where nobody says otherwise. */
  oversampling?: number | undefined
  ppm?: number | undefined
}

/**
 * Two ends with their clocks at one speed, each with the divider that comes nearest; the worse direction is judged, since
 * both ends hear.
 * @param bitsInFrame as the line is set.
 */
export function judgeLineSpeed(one: UartClock, two: UartClock, baud: number, bitsInFrame: number): Finding {
  const end = ({ hertz, oversampling = 16, ppm = 0 }: UartClock): UartEnd => ({
    clockHertz: hertz,
    clocksPerBit: nearestDivisor(hertz, baud, oversampling).divisor * oversampling,
    ppm,
  })
  const [first, second] = [end(one), end(two)]
  return heaviestFirst([
    judgeBaud(first, second, { bitsInFrame, oversampling: two.oversampling ?? 16 }),
    judgeBaud(second, first, { bitsInFrame, oversampling: one.oversampling ?? 16 }),
  ])[0]!
}
