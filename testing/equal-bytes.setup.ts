import { expect } from 'vitest'

/** Bytes of one kind are compared as bytes: a quarter of a million of them, member by member, take half a second. */
expect.addEqualityTesters([
  (a: unknown, b: unknown): boolean | undefined =>
    a instanceof Uint8Array && b instanceof Uint8Array && a.constructor === b.constructor
      ? Buffer.compare(a, b) === 0
      : undefined,
])
