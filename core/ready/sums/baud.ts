import type { Finding } from '../../kernel'

/** One end of an asynchronous line: its clock and the divider behind it. */
export interface UartEnd {
  clockHertz: number
  /** Clock periods to a bit, over all dividers; 16 times the divisor where it oversamples by 16. */
  clocksPerBit: number
  /** Tolerance of the clock itself, parts per million: a crystal 50, an RC oscillator 10 000 (from memory). */
  ppm?: number
}

export const baudOf = ({ clockHertz, clocksPerBit }: UartEnd) => clockHertz / clocksPerBit

/** The divider of a clock that comes nearest to a baud rate, and the error it leaves, as a share. */
export function nearestDivisor(
  clockHertz: number,
  baud: number,
  oversampling: number,
): { divisor: number; error: number } {
  const exact = clockHertz / (baud * oversampling)
  const divisor = Math.max(1, Math.round(exact))
  return { divisor, error: exact / divisor - 1 }
}

/**
 * Whether the receiver still samples the last bit of a frame within that bit. It starts at the falling edge of the
 * start bit and samples in the middle of each; the stop bit of an 8N1 frame is sampled 9.5 bit times later. With a
 * receiver that looks 16 times a bit the edge is found up to 1/16 of a bit late, and a sampler that takes the middle
 * three of sixteen needs them all inside. A receiver whose baud is off by share e from the sender's has bits 1 / (1 + e)
 * as long: its latest look, (9.5 + 1/16 + 1/16) / (1 + e), stays below 10 when e ≥ −3.75 %; its earliest,
 * (9.5 − 1/16) / (1 + e), stays above 9 when e ≤ 4.86 %. The smaller of the two is allowed both ways. Derivation here; the application notes of the trade come to "±5 %
 * at best, 2 to 3.5 % in practice" (from memory).
 */
export function baudMargin(sender: UartEnd, receiver: UartEnd, bitsInFrame = 10) {
  const ppm = ((sender.ppm ?? 0) + (receiver.ppm ?? 0)) / 1e6
  const error = baudOf(receiver) / baudOf(sender) - 1
  const worst = Math.abs(error) + ppm
  const sampledAt = bitsInFrame - 0.5
  const slack = 2 / 16
  const allowed = 1 - (sampledAt + slack) / bitsInFrame
  return {
    senderBaud: baudOf(sender),
    receiverBaud: baudOf(receiver),
    error,
    worstError: worst,
    allowedError: allowed,
    lastBitInside: worst <= allowed,
  }
}

/** More than two thirds of the allowance is asking for trouble: edges are not steep on a long lead (common practice). */
export function judgeBaud(sender: UartEnd, receiver: UartEnd, bitsInFrame = 10): Finding {
  const { error, worstError, allowedError, lastBitInside } = baudMargin(sender, receiver, bitsInFrame)
  const percent = (share: number) => `${(share * 100).toFixed(2)} %`
  const numbers = { error, worstError, allowedError }
  const level = !lastBitInside ? 'stop' : worstError > (allowedError * 2) / 3 ? 'hold' : 'go'
  return {
    rule: 'baud-error',
    level,
    says:
      level === 'stop'
        ? `The ends differ by ${percent(worstError)}: the last bit is sampled in the next one.`
        : level === 'hold'
          ? `The ends differ by ${percent(worstError)}: it works on a short lead, and not for sure.`
          : `The ends differ by ${percent(worstError)}; the last bit is sampled right.`,
    because: `${percent(allowedError)} is allowed over ${bitsInFrame} bits; the dividers alone leave ${percent(Math.abs(error))}.`,
    ...(level === 'go' ? {} : { remedy: 'Take a slower speed, or one that both clocks divide to.' }),
    numbers,
  }
}
