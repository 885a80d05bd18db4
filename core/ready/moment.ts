import * as v from 'valibot'

/** A moment of a clock, ms since 1970, as far as a date reaches (ECMA-262, 21.4.1.1). */
export const moment = v.pipe(v.number(), v.minValue(0), v.maxValue(8.64e15))
