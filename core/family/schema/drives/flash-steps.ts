import * as v from 'valibot'
import type { Fault } from '../../fault'
import { amount, hexadecimal, text, whole } from '../fields'

/** Bits of a register: in `mask` they stand as `is` says, 0 where nothing is said. */
const bits = {
  register: hexadecimal('Register that is read'),
  mask: hexadecimal('Its bits that matter'),
  is: v.exactOptional(hexadecimal('How they stand; all 0 where nothing is said')),
}

/** What a value can carry of the act: where a page begins, its number in the region, where a piece begins. */
export const carriedParts = ['page-address', 'page-number', 'piece-address'] as const

/** One step on a unit's memory: what a manual says to write to a flash controller, and what to wait for. */
export const MemoryStep = v.variant('do', [
  v.strictObject({
    do: v.literal('set'),
    register: hexadecimal('Register that takes the value'),
    value: hexadecimal('What is written'),
    with: v.exactOptional(
      v.pipe(v.picklist(carriedParts), v.description('What is put into the value beside it')),
    ),
    shift: v.exactOptional(
      v.pipe(
        v.number(),
        v.integer(),
        v.minValue(0),
        v.maxValue(31),
        v.description('Bits to the left that it is moved; 0 where nothing is said'),
      ),
    ),
  }),
  v.strictObject({ do: v.literal('until'), ...bits, withinMs: amount('Longest that it is waited for, ms') }),
  v.strictObject({
    do: v.literal('check'),
    ...bits,
    says: text('What is wrong where they stand otherwise, as the manual says it'),
    clear: v.exactOptional(
      v.pipe(v.literal(true), v.description('Written back they are cleared, so that the next act can begin')),
    ),
  }),
  v.pipe(
    v.strictObject({ do: v.literal('enough'), ...bits }),
    v.description('Nothing more is to do where they stand so already'),
  ),
  v.strictObject({ do: v.literal('wait'), ms: amount('Milliseconds') }),
  v.pipe(
    v.strictObject({
      do: v.literal('data'),
      to: v.exactOptional(
        hexadecimal('Where the controller’s buffer begins; absent where the piece goes to its own place'),
      ),
    }),
    v.description('The piece itself'),
  ),
])
export type MemoryStep = v.InferOutput<typeof MemoryStep>

const steps = (says: string) => v.pipe(v.array(MemoryStep), v.minLength(1), v.description(says))

/** A flash controller of any shape, act by act. */
export const FlashSteps = v.strictObject({
  width: v.pipe(v.picklist([2, 4]), v.description('Bytes of one write to the memory')),
  pageBytes: whole('Bytes that one erase takes', 4),
  base: v.exactOptional(hexadecimal('Where page number 0 begins; address 0 where nothing is said')),
  pieceBytes: v.exactOptional(
    whole('Bytes that one act of programming takes; a page where nothing is said', 2),
  ),
  unlock: v.exactOptional(steps('Before each act')),
  erasePage: steps('Erases one page'),
  eraseAll: v.exactOptional(steps('Erases everything, the protection too')),
  program: steps('Programs one piece'),
  lock: v.exactOptional(steps('After each act, whatever became of it')),
  protection: v.exactOptional(
    v.strictObject({
      register: hexadecimal('Tells the read-out protection'),
      mask: hexadecimal('Its bits'),
      is: v.exactOptional(hexadecimal('How they stand while it is on; any of them 1 where nothing is said')),
    }),
  ),
})
export type FlashSteps = v.InferOutput<typeof FlashSteps>

const acts = ['unlock', 'erasePage', 'eraseAll', 'program', 'lock'] as const
/** What an act of that name may put into a value. */
const carries: Record<(typeof acts)[number], readonly string[]> = {
  unlock: [],
  erasePage: ['page-address', 'page-number'],
  eraseAll: [],
  program: ['piece-address', 'page-address', 'page-number'],
  lock: [],
}

/** What the steps would do wrong at every unit, said at the step. @param place of the steps in the profile. */
export function checkFlashSteps(flash: FlashSteps, place: string, fault: Fault): void {
  const wrong = (at: string, says: string, remedy: string) => fault(at, `${says}. ${remedy}`)
  const { pageBytes, pieceBytes = pageBytes, width } = flash
  if (pieceBytes % width !== 0)
    wrong(
      `${place}.pieceBytes`,
      `a piece is written in steps of ${width} bytes`,
      'Give a multiple of "width".',
    )
  if (pageBytes % pieceBytes !== 0)
    wrong(
      `${place}.pieceBytes`,
      'a page does not hold a whole number of pieces',
      'Give a part of "pageBytes".',
    )

  for (const act of acts) {
    for (const [index, step] of (flash[act] ?? []).entries()) {
      const at = `${place}.${act}.${index}`
      if ('register' in step && step.register % 4 !== 0)
        wrong(`${at}.register`, 'a register is a whole word', 'Give an address that 4 divides.')
      if (step.do === 'data' && act !== 'program')
        wrong(at, 'only programming has a piece to write', 'Take the step out, or move it to "program".')
      if (step.do === 'data' && (step.to ?? 0) % width !== 0)
        wrong(
          `${at}.to`,
          `the buffer is written in steps of ${width} bytes`,
          'Give an address that "width" divides.',
        )
      if (step.do === 'set' && step.shift !== undefined && step.with === undefined)
        wrong(`${at}.shift`, 'there is nothing to move', 'Say "with" what, or leave "shift" out.')
      if (step.do === 'set' && step.with !== undefined && !carries[act].includes(step.with))
        wrong(`${at}.with`, `"${act}" has no ${step.with}`, `Choose ${carries[act].join(' or ') || 'none'}.`)
      const tests = step.do === 'until' || step.do === 'check' || step.do === 'enough'
      if (tests && ((step.is ?? 0) & ~step.mask) !== 0)
        wrong(
          `${at}.is`,
          'it names bits that "mask" leaves out: it can never be so',
          'Give bits of the mask only.',
        )
      if (tests && step.mask === 0) wrong(`${at}.mask`, 'it looks at no bit', 'Name at least one bit.')
    }
  }

  const sets = (act: 'erasePage' | 'program') => flash[act].filter((step) => step.do === 'set')
  if (!sets('erasePage').some((step) => step.with !== undefined))
    wrong(
      `${place}.erasePage`,
      'nothing says which page is erased',
      'Put the page into a value: "with": "page-address" or "page-number".',
    )
  const data = flash.program.filter((step) => step.do === 'data')
  if (data.length !== 1)
    wrong(`${place}.program`, `it writes ${data.length} pieces`, 'Give exactly one step "data".')
  if (data.some((step) => step.to !== undefined) && !sets('program').some((step) => step.with !== undefined))
    wrong(
      `${place}.program`,
      'the piece goes into a buffer, and nothing says where it belongs',
      'Put its place into a value: "with": "piece-address", or the page.',
    )
  // With the page alone said, a piece that is a part of it would always go to the page's beginning.
  if (
    data.some((step) => step.to !== undefined) &&
    pieceBytes !== pageBytes &&
    !sets('program').some((step) => step.with === 'piece-address')
  )
    wrong(
      `${place}.program`,
      'several pieces of a page would go to the same place',
      'Put "piece-address" into a value, or make a piece a whole page.',
    )
  for (const act of ['erasePage', 'eraseAll', 'program'] as const) {
    const list = flash[act]
    if (list && !list.some((step) => step.do === 'until' || step.do === 'wait'))
      wrong(
        `${place}.${act}`,
        'nothing waits until it is done',
        'Add a step "until" with the bit that says so.',
      )
  }
}
