import { randomBytes } from 'node:crypto'

const alphabet = '23456789abcdefghjkmnpqrstuvwxyz'

/** `run-7k3mp2qa`: short enough to read out, without letters that look alike. */
export function newId(prefix: string): string {
  return `${prefix}-${[...randomBytes(8)].map((byte) => alphabet[byte % alphabet.length]).join('')}`
}
