import * as v from 'valibot'

/* Kinds of field that a profile is made of, each with what an editor says of it. */

/** A text that is not empty. */
export const text = (says: string) => v.pipe(v.string(), v.trim(), v.minLength(1), v.description(says))
/** A whole number, 0 or more where nothing else is said. */
export const whole = (says: string, least = 0) =>
  v.pipe(v.number(), v.integer(), v.minValue(least), v.description(says))
/** A number that is not negative. */
export const amount = (says: string) => v.pipe(v.number(), v.minValue(0), v.description(says))
/** A short name of small letters, digits and hyphens. */
export const slug = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'Use lower-case letters, digits and single hyphens: "fog-signal"'),
    v.description(says),
  )
/** An address or a value of up to 32 bits, written `0x08008000`; read as a number. */
export const hexadecimal = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^0x[0-9A-Fa-f]{1,8}$/, 'Write it as hexadecimal of up to 32 bits: "0x08008000"'),
    v.transform(Number),
    v.description(says),
  )
/** A UUID in lower case. */
export const uuid = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(
      /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/,
      'Write a UUID in lower case (RFC 9562)',
    ),
    v.description(says),
  )

/** How a character is checked on a serial line; `mark` and `space` are a fixed ninth bit. */
export const parities = ['none', 'even', 'odd', 'mark', 'space'] as const
/** How one end of a serial line holds the other back. */
export const flows = ['rts-cts', 'xon-xoff'] as const
