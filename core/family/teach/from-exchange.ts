import type { TeachDraft } from './draft'
import { promptOf } from './marks'
import type { PieceId } from './pieces'

/*
 * What one exchange of a trace or a log says about a piece: what was sent becomes its command, with slots where an address,
 * a length or a sum stood.
 */

/** What was sent to a unit, and what it answered. */
interface Said {
  sent: string
  heard: string
}

const number = /\b(0x)?([0-9A-Fa-f]{1,8})\b/g

/**
 * A command with slots for what it says of memory: the address in the place of the first number that lies in it, the length
 * in the place of all of it, or of whole sectors. A number is taken for hexadecimal, and for decimal where only that fits.
 * @param anyLength any number after the address is a length.
 */
export function commandTemplate(sent: string, memory: TeachDraft['memory'], anyLength = false): string {
  const start = Number(memory?.address || NaN)
  const whole = Number(memory?.length || NaN)
  const sector = memory?.sectorBytes ?? NaN
  let addressed = false
  let measured = false
  return sent.replace(number, (text: string, mark: string | undefined, digits: string, at: number) => {
    // What stands first is the command, whatever it is made of; "be" and "add" are words of it.
    if (at === 0 || (!/\d/.test(digits) && digits.length < 4)) return text
    const hex = parseInt(digits, 16)
    const width = digits.startsWith('0') && digits.length > 1 ? String(digits.length) : ''
    const small = /[a-f]/.test(digits) ? 'l' : ''
    if (!addressed && hex >= start && hex < start + whole) {
      addressed = true
      return `${mark ?? ''}{address:${small}hex${width}}`
    }
    const decimal = /^\d+$/.test(digits) && !mark ? Number(digits) : NaN
    if (!addressed && decimal >= start && decimal < start + whole) {
      addressed = true
      return '{address}'
    }
    if (!addressed || measured) return text
    const isLength = (value: number) =>
      value > 0 && value <= whole && (anyLength || value === whole || value % sector === 0)
    if (isLength(hex)) {
      measured = true
      return `${mark ?? ''}{length:${small}hex${width}}`
    }
    if (isLength(decimal)) {
      measured = true
      return '{length}'
    }
    return text
  })
}

/** A line of a dump as a template: address, pairs of digits, and what follows them; null where no line is one. */
export function dumpTemplate(heard: string): string | null {
  for (const line of heard.split(/[\r\n]+/)) {
    const found =
      /^(\s*(?:0x)?)([0-9A-Fa-f]{4,8})(\W+)((?:[0-9A-Fa-f]{2} ?){3,}[0-9A-Fa-f]{2})(\s+\S.*|\s*)$/.exec(line)
    if (!found) continue
    const [, before, address, between, , after] = found
    const behind = /^\s+[|:;*]/.exec(after ?? '')?.[0] ?? ''
    const small = /[a-f]/.test(address!) ? 'l' : ''
    return `${before!.trimStart()}{at:${small}hex${address!.length}}${between}{row:bytes}${behind}`
  }
  return null
}

/** The answer to a check, with {sum} where the sum stands: the last word of four or eight digits of its first lines. */
export function sumTemplate(heard: string): string | null {
  for (const line of heard.split(/[\r\n]+/)) {
    const words = [...line.matchAll(/\b(0x)?([0-9A-Fa-f]{8}|[0-9A-Fa-f]{4})\b/g)].filter(([word]) =>
      /\d/.test(word),
    )
    const last = words.at(-1)
    if (!last) continue
    const [text, mark, digits] = last
    const at = last.index
    return `${line.slice(0, at).trimStart()}${mark ?? ''}{sum:hex${digits!.length}}${line.slice(at + text.length).trimEnd()}`
  }
  return null
}

/**
 * What an exchange changes in the draft, asked about one piece. Whatever it does not say stays as it was.
 * @returns null for a piece that no exchange says anything about.
 */
export function draftFrom(
  draft: TeachDraft,
  piece: PieceId,
  { sent, heard }: Said,
): Partial<TeachDraft> | null {
  const prompt = promptOf(heard)
  // Reading and summing take any length; erasing goes by sectors.
  const command = commandTemplate(sent, draft.memory, piece === 'read' || piece === 'check')
  switch (piece) {
    case 'page':
      return {
        page: { facts: draft.page?.facts ?? [], sends: sent },
        ...(prompt && !draft.ends ? { ends: { by: 'prompt' as const, text: prompt } } : {}),
      }
    case 'entry':
      return { entry: { how: 'command', sends: sent, settleMs: draft.entry?.settleMs ?? 1000 } }
    case 'attach': {
      const lines = heard.split(/[\r\n]+/).filter((line) => line.trim() !== '')
      const shown = prompt
        ? { by: 'prompt' as const, text: prompt }
        : { by: 'line' as const, text: lines.at(-1)?.trim() ?? '' }
      return { attach: { sends: sent, ...shown } }
    }
    case 'erase':
      return { erase: { progress: '', withinMs: 30_000, ...draft.erase, sends: command } }
    case 'write':
      return {
        write: {
          announces: '',
          by: 'xmodem-1k',
          then: '',
          pieceBytes: null,
          ...draft.write,
          sends: command,
          ...announced(heard, prompt),
        },
      }
    case 'check':
      return {
        check: {
          checksum: 'crc32',
          ...draft.check,
          sends: command,
          answers: sumTemplate(heard) ?? draft.check?.answers ?? '{sum:hex8}',
        },
      }
    case 'read':
      return {
        read: { sends: command, line: dumpTemplate(heard) ?? draft.read?.line ?? '{at:hex8}: {row:bytes}' },
      }
    case 'start':
      return { start: { sends: sent } }
    default:
      return null
  }
}

/** The line by which a unit says that it waits for the bytes. */
function announced(heard: string, prompt: string | null): { announces?: string } {
  const [line] = heard
    .slice(0, prompt ? heard.length - prompt.length : undefined)
    .split(/[\r\n]+/)
    .filter((each) => /[A-Za-z]{3}/.test(each))
  return line ? { announces: line.trim() } : {}
}
