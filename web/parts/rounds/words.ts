import type { CaseNext, CaseState } from '@bench-wake/core/rounds'
import { clockText } from '@bench-wake/core/kernel'
import { fixed, short } from '../written'

export const roundWords = {
  'to-write': 'to write',
  'to-log': 'to log',
  'to-send': 'to send',
  sent: 'with the calibrator',
  answered: 'answered',
} as const satisfies Record<CaseState['rounds'][number]['state'], string>

export const outcomeWords = {
  reached: 'the aim is reached',
  mechanical: 'a mechanical fault',
  'given-up': 'given up',
} as const

/** What is next in a case, in a sentence. */
export function nextText(next: CaseNext, kindName: (id: string) => string): string {
  switch (next.does) {
    case 'receive':
      return next.after === 'opening' ? 'Take in the base image.' : 'Take in the answer.'
    case 'write':
      return `Write and prove the image of round ${next.round}.`
    case 'log':
      return `Log ${kindName(next.logKind).toLowerCase()} for round ${next.round}.`
    case 'send':
      return `Send round ${next.round} to the calibrator.`
    case 'wait':
      return `Round ${next.round} is with the calibrator.`
    case 'nothing':
      return 'Closed.'
  }
}

/** `6 days`, `3 hours`: how long an answer was waited for. */
export function waitedText(ms: number): string {
  const hours = Math.floor(ms / 3_600_000)
  if (hours < 1) return 'under an hour'
  if (hours < 48) return `${hours} ${hours === 1 ? 'hour' : 'hours'}`
  return `${Math.round(hours / 24)} days`
}

/** A figure as short as it can be read: four digits. */
export const figureText = (figure: number | null, decimals?: number): string =>
  figure === null ? '' : decimals === undefined ? short(figure, 4) : fixed(figure, decimals)

/** `1:05.3`: a place in a log. */
export const secondText = (second: number): string =>
  second < 60
    ? `${fixed(second, 1)} s`
    : `${clockText(Math.floor(second) * 1000)}.${Math.floor((second % 1) * 10)}`
