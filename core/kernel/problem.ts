/** Where in a thing the trouble lies. */
export interface Place {
  /** Line of a text, counted from 1. */
  line?: number
  /** Byte offset from the start, counted from 0. */
  offset?: number
  /** Record, block or field, by its name. */
  at?: string
}

/** What a Problem says: the thing, the place, what was wrong and the way out. */
export interface ProblemFacts {
  /** Short kind, for programs: `hex-checksum`, `port-held`. */
  kind: string
  /** The thing in trouble: a file name, a port, a unit. */
  thing?: string
  place?: Place
  /** What was wrong, in one sentence without a full stop. */
  says: string
  expected?: string
  found?: string
  /** The way out, as a sentence. */
  remedy: string
}

/**
 * The only error core throws on purpose: it names the thing, the place and the way out.
 * Anything else that escapes is a defect of ours.
 */
export class Problem extends Error {
  readonly facts: ProblemFacts

  constructor(facts: ProblemFacts) {
    super(describe(facts))
    this.name = 'Problem'
    this.facts = facts
  }

  /** The same problem, with the thing named: a reader knows the line, its caller knows the file. */
  about(thing: string): Problem {
    return new Problem({ ...this.facts, thing })
  }
}

/** Whether an error is one of ours, of this kind where one is named. */
export function isProblem(error: unknown, kind?: string): error is Problem {
  return error instanceof Problem && (kind === undefined || error.facts.kind === kind)
}

function describe({ thing, place, says, expected, found, remedy }: ProblemFacts): string {
  const where = [
    thing,
    place?.line === undefined ? undefined : `line ${place.line}`,
    place?.at,
    place?.offset === undefined ? undefined : `byte ${place.offset}`,
  ].filter(Boolean)
  const seen = [expected && `expected ${expected}`, found && `found ${found}`].filter(Boolean).join(', ')
  return `${where.length ? `${where.join(', ')}: ` : ''}${says}${seen ? ` (${seen})` : ''}. ${remedy}`
}
