import * as v from 'valibot'
import { hexadecimal } from './fields'

/** One step of the sum that answers a seed; all are of the seed's own width, at most 32 bits. */
export const KeyStep = v.variant('do', [
  v.strictObject({ do: v.literal('add'), by: hexadecimal('Added') }),
  v.strictObject({ do: v.literal('xor'), by: hexadecimal('Mixed in, bit by bit') }),
  v.strictObject({ do: v.literal('multiply'), by: hexadecimal('Multiplied by') }),
  v.strictObject({
    do: v.literal('rotate'),
    left: v.pipe(
      v.number(),
      v.integer(),
      v.minValue(-31),
      v.maxValue(31),
      v.description('Bits to the left; below zero to the right'),
    ),
  }),
  v.pipe(v.strictObject({ do: v.literal('swap') }), v.description('The bytes in the other order')),
  v.strictObject({
    do: v.literal('table'),
    values: v.pipe(
      v.array(v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255))),
      v.length(256, 'A table has 256 values, one for each byte'),
      v.description('What stands in the place of each byte'),
    ),
  }),
])
export type KeyStep = v.InferOutput<typeof KeyStep>
