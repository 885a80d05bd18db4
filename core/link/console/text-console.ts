import { fillTemplate, readTemplate, type Exchange, type Link } from '../../family'
import { asciiBytes, asciiText, Problem } from '../../kernel'
import { discardInput, type Port } from '../port'

/** What a text console answered: its lines without the closing one, and the slots of the line that was asked for. */
export interface Answer {
  lines: string[]
  values: Record<string, string>
}

export interface Asking {
  values?: Readonly<Record<string, string | number>>
  /** Called for each line of the form `exchange.progress`. */
  onProgress?: (done: number, total: number) => Promise<void> | void
  /** Ends the answer in place of the console's `done` line. */
  until?: string
}

/**
 * Asks a text console one thing: sends the command, gathers lines until the one that ends the answer.
 * An echo of the command is passed over; CR, LF and both together end a line.
 *
 * @throws Problem `no-answer` when nothing comes for `exchange.timeoutMs`; `unit-refused` with the unit's reason.
 */
export async function askConsole(
  port: Port,
  dialect: Link['console'],
  exchange: Exchange,
  asking: Asking = {},
): Promise<Answer> {
  const command = fillTemplate(exchange.send, asking.values ?? {})
  const end = asking.until ?? dialect.done
  await discardInput(port)
  await port.write(asciiBytes(command + dialect.lineEnd))
  const answer: Answer = { lines: [], values: {} }
  for await (const line of consoleLines(port, exchange.timeoutMs)) {
    if (line === command && answer.lines.length === 0) continue
    if (readTemplate(end, line)) return answer
    const refusal = readTemplate(dialect.refused, line)
    if (refusal) throw unitRefused(port.name, command, refusal['reason'] ?? line)
    const progress = exchange.progress && readTemplate(exchange.progress, line)
    if (progress) {
      await asking.onProgress?.(Number(progress['done']), Number(progress['total']))
      continue
    }
    Object.assign(answer.values, exchange.reads ? readTemplate(exchange.reads, line) : null)
    answer.lines.push(line)
  }
  throw new Problem({
    kind: 'no-answer',
    thing: port.name,
    says: `the unit did not answer "${command}" within ${exchange.timeoutMs} ms`,
    ...(answer.lines.length ? { found: answer.lines.join(' / ').slice(0, 120) } : { found: 'silence' }),
    expected: `a line "${end}"`,
    remedy:
      'Check in this order: transmit and receive swapped, a bad contact, the unit without power, the wrong speed.',
  })
}

/** The lines that arrive, ending when the line stays silent for `silenceMs`. Empty lines are passed over. */
async function* consoleLines(port: Port, silenceMs: number): AsyncGenerator<string> {
  let pending = ''
  for (;;) {
    // One byte at a time, so that what belongs to a block transfer behind the line is left in the port.
    const bytes = await port.read(1, silenceMs)
    if (!bytes) return
    const character = asciiText(bytes)
    if (character !== '\r' && character !== '\n') {
      pending += character
      // Noise at a wrong speed has no line ends; do not gather it for ever.
      if (pending.length > 4096) return
      continue
    }
    const line = pending.trim()
    pending = ''
    if (line) yield line
  }
}

function unitRefused(port: string, command: string, reason: string): Problem {
  return new Problem({
    kind: 'unit-refused',
    thing: port,
    says: `the unit refused "${command}"`,
    found: reason,
    remedy: 'Read its reason; the unit itself is unchanged by a refused command.',
  })
}
