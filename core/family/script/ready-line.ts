import type { LinkScript, LinkStep, Pattern } from '../schema'
import { isSlot, readText } from './template'

/**
 * The line by which a bootloader shows that it is there, as the unit prints it: what `attach` waits for, where that is a
 * whole line without slots; undefined where nothing of the kind is known.
 */
export function readyLine({ operations }: LinkScript): string | undefined {
  return awaited(operations.attach?.steps ?? []).flatMap((pattern) =>
    'line' in pattern && (pattern.means ?? 'go') === 'go' && !readText(pattern.line).some(isSlot)
      ? [pattern.line.trim()]
      : [],
  )[0]
}

function awaited(steps: readonly LinkStep[]): readonly Pattern[] {
  return steps.flatMap((step) => {
    if (step.do === 'expect') return step.patterns
    return step.do === 'repeat' ? [...awaited(step.steps), ...step.until] : []
  })
}
