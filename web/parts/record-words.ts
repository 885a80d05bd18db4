import { checkText } from '@bench-wake/core/link'
import { groupedNumber, hexNumber } from '@bench-wake/core/kernel'
import { checkOf, taskText, type BodyOf, type WakeEvent } from '@bench-wake/core/run'
import { postUpdateOutcomeWords } from './words'
import { voltsText } from './written'

const checkSays = (body: BodyOf<'verified' | 'held-against'>) => {
  const check = checkOf(body)
  return `${checkText(check)}: ${check.found}${check.outcome === 'different' ? `, not ${check.expected}` : ''}`
}

/**
 * An event of the wake as a line of the record.
 * @param kind what a step of the plan in force does, by its index.
 */
export function recordWords({ body }: WakeEvent, kind: (step: number) => string): string {
  switch (body.type) {
    case 'run.opened':
      return `Run opened on ${body.port.name}, ${body.image?.name ?? taskText[body.task ?? 'write']}`
    case 'leg.opened':
      return body.goesOnAt === undefined
        ? `Leg ${body.leg} opened on ${body.port.name}, from the beginning`
        : `Leg ${body.leg} opened on ${body.port.name}, goes on at byte ${groupedNumber(body.goesOnAt)}`
    case 'backup':
      return body.imageId
        ? `Read out and kept: ${body.name}, ${groupedNumber(body.bytes)} bytes from ${hexNumber(body.address, 8)}${body.widthBits ? `, ${body.widthBits} bit wide` : ''}, read ${body.reads} times`
        : `No backup: ${body.findings[0]?.says ?? body.name}`
    case 'held-against':
      return `The image against what was in the unit: ${checkSays(body)}`
    case 'supply-warning':
      return body.volts === null
        ? 'The supply is well again'
        : `The supply falls: ${voltsText(body.volts)}${body.atLastByte === null ? '' : `, ${voltsText(body.atLastByte)} at the last byte`}`
    case 'faults':
      return body.kept
        ? `Fault codes: ${body.before}`
        : `Fault codes before ${body.before}, after clearing ${body.after}`
    case 'aftercare':
      return `${body.does} ${postUpdateOutcomeWords[body.outcome]}, ${body.by}${body.note ? `: ${body.note}` : ''}`
    case 'job.closed':
      return `Closed by ${body.by}: ${body.cameTo}. ${body.note}${body.back.length ? ` Put back: ${body.back.join(' ')}` : ''}`
    case 'job.reopened':
      return `Opened again by ${body.by}: ${body.why}`
    case 'step.started':
      return `${kind(body.step)} begins`
    case 'step.done':
      return `${kind(body.step)} done`
    case 'supply':
      return body.volts === null ? 'Supply: the meter does not answer' : `Supply ${voltsText(body.volts)}`
    case 'prompt.asked':
      return `Asked: ${body.says}`
    case 'prompt.answered':
      return `Answered: ${body.answer}`
    case 'retry':
      return `Again: ${body.why}`
    case 'note':
      return body.says
    case 'snapshot':
      return `Page read ${body.when === 'before' ? 'before' : 'after'} the write, ${body.snapshot.lines.length} lines`
    case 'verified':
      return `Checked after the write: ${checkSays(body)}`
    case 'findings':
    case 'compared':
      return `${body.findings.length} findings`
    case 'failed':
      return `Failed: ${body.problem.says}`
    case 'abandon.asked':
      return 'Abandoned by two steps'
    case 'cut':
      return `Cut. ${body.why}`
    case 'run.closed':
      return `Run closed: ${body.outcome}`
    default:
      return body.type
  }
}
