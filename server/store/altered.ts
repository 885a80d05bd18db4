import { Problem, type Finding } from '@bench-wake/core/kernel'

const loadAgain = 'The data folder was altered or its disk is failing. Load the image again from its source.'

export const blobAltered = (name: string, expected: string, found: string) =>
  new Problem({
    kind: 'blob-altered',
    thing: name,
    says: 'the stored bytes are not those that came in',
    expected,
    found,
    remedy: loadAgain,
  })

/** Stops every use of an image whose stored bytes are damaged. */
export const alteredFinding = (name: string): Finding => ({
  rule: 'image-intact',
  level: 'stop',
  says: `The stored bytes of ${name} are damaged.`,
  because: 'Their digest is not the one that was taken when the image came in.',
  remedy: loadAgain,
})
