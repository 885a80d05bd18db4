import { Problem } from '../../kernel'
import type { StepAct } from '../step-context'

/**
 * Compares what is in the unit with the image; the record says by which means. A link that compares nothing goes on to the
 * proof by version; one that should have compared and did not is no check.
 */
export const verify: StepAct = async ({ loads, loader, wake, step }) => {
  if (loads.length === 0) throw nothingCompared('no byte of the image belongs into this unit')
  for (const { address, bytes } of loads) {
    const verification = await loader.verify(address, bytes)
    await wake.record({ type: 'verified', step, ...verification })
    const { outcome, expected, found } = verification
    if (outcome === 'not-comparable') throw nothingCompared(found)
    if (outcome === 'different') {
      throw new Problem({
        kind: 'verify-failed',
        says: 'what is in the unit is not the image',
        expected,
        found,
        remedy:
          'Do not power down. Write again from the beginning; if it fails the same way, try another adapter.',
      })
    }
  }
}

function nothingCompared(found: string): Problem {
  return new Problem({
    kind: 'verify-failed',
    says: 'what is in the unit could not be compared with the image',
    found,
    remedy: 'Do not power down. Check again; if the unit still gives nothing to compare, write again.',
  })
}
