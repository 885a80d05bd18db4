import { groupedNumber } from '@bench-wake/core/kernel'
import { checkText } from '@bench-wake/core/link'
import { checkOf, type RunState, type WakeEvent } from '@bench-wake/core/run'
import { fixed } from '../written'

/** An event of the wake in a few words, for the line below a live run. */
export function eventWords({ body }: WakeEvent, steps: RunState['steps']): string {
  if (body.type === 'progress') {
    return body.unit === 'bytes'
      ? `acknowledged up to byte ${groupedNumber(body.done)}`
      : `sector ${body.done} of ${body.total} erased`
  }
  if (body.type === 'supply') return body.volts === null ? 'meter silent' : `supply ${fixed(body.volts, 2)} V`
  if (body.type === 'supply-warning') return body.volts === null ? 'supply well again' : 'supply falls'
  if (body.type === 'held-against') return `against what is in the unit: ${checkText(checkOf(body))}`
  if (body.type === 'retry') return body.why
  if (body.type === 'prompt.asked') return 'asked you'
  if (body.type === 'prompt.answered') return `answered: ${body.answer}`
  if (body.type === 'backup') return body.imageId ? 'read out and kept' : 'no backup'
  if (body.type === 'verified') return checkText(checkOf(body))
  if (body.type === 'step.started') return `${steps[body.step]?.kind} begins`
  if (body.type === 'step.done') return `${steps[body.step]?.kind} done`
  return body.type
}
