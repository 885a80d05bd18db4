/*
 * An instruction of a six-line port as its manual writes it: bytes that go out, highest bit first, and what comes in while
 * the last of them do. A token is two hexadecimal digits, `@2` `@1` `@0` (bytes of the address, highest first), `i` (a
 * number), `d` (the byte that is written), `r` (the byte that comes back) or `--` (does not matter).
 */
const tokenForm = /^([0-9A-Fa-f]{2}|@[0-2]|i|d|r|--)$/

/** What an instruction is filled with. */
export interface InstructionSlots {
  address?: number
  index?: number
  data?: number
}

/** An instruction as it goes over the wire. */
export interface Instruction {
  /** Bytes that go out before anything that comes back counts. */
  send(slots: InstructionSlots): Uint8Array
  /** Bytes that are clocked in after them. */
  read: number
  /** Which of these is the answer; null where it has none. */
  resultAt: number | null
}

/** Why a text is no instruction; null where it is one. */
export function instructionFault(text: string): string | null {
  const tokens = text.trim().split(/\s+/)
  const odd = tokens.find((token) => !tokenForm.test(token))
  if (odd !== undefined) return `"${odd}" is neither two hexadecimal digits nor @0, @1, @2, i, d, r or --`
  if (tokens.length > 8) return 'An instruction has eight bytes at the most'
  const first = tokens.indexOf('r')
  if (first < 0) return null
  if (first !== tokens.lastIndexOf('r')) return 'One byte comes back at the most'
  if (first === 0) return 'Something goes out before anything comes back'
  return tokens.slice(first).every((token) => token === 'r' || token === '--' || token === '00')
    ? null
    : 'After the byte that comes back nothing may go out that matters'
}

/** @throws TypeError for a text that is no instruction: a profile is checked before. */
export function instructionOf(text: string): Instruction {
  const fault = instructionFault(text)
  if (fault !== null) throw new TypeError(fault)
  const tokens = text.trim().split(/\s+/)
  const result = tokens.indexOf('r')
  const out = result < 0 ? tokens : tokens.slice(0, result)
  return {
    send: (slots) => Uint8Array.from(out, (token) => byteOf(token, slots)),
    read: tokens.length - out.length,
    resultAt: result < 0 ? null : 0,
  }
}

function byteOf(token: string, { address = 0, index = 0, data = 0 }: InstructionSlots): number {
  if (token === '--') return 0
  if (token === 'i') return index & 255
  if (token === 'd') return data & 255
  const part = /^@([0-2])$/.exec(token)
  return part ? (address >>> (8 * Number(part[1]))) & 255 : parseInt(token, 16)
}
