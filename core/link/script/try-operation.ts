import type { Component, Family, LinkScript, OperationName, FamilyLink } from '../../family'
import { applicationRegions, pageLine } from '../../family'
import { isProblem, type Clock, type ProblemFacts } from '../../kernel'
import type { Port } from '../port'
import type { ScriptEvent } from './bench'
import { scriptDriver } from './script-loader'

/** Operations that may be tried by themselves: they write nothing and erase nothing. */
export const tryable = [
  'page',
  'live',
  'enter',
  'attach',
  'identify',
  'read',
] as const satisfies readonly OperationName[]
/** An operation that can be tried by itself. */
export type Tryable = (typeof tryable)[number]
/** As much of the memory as a trial reads, bytes. */
export const triedBytes = 256

/** What came of a trial: every step with what was sent and heard, and what it gave. */
export interface Trial {
  operation: Tryable
  tookMs: number
  events: ScriptEvent[]
  lines: string[]
  /** The first bytes of the application, where they were read. */
  bytes?: Uint8Array
  /** Why it did not come to its end: at which step, what was sent, awaited and heard. */
  problem?: ProblemFacts
}

/** A trial keeps no more steps than a person looks through. */
const maxEvents = 400

/**
 * Tries one operation of a script on whatever is at a port, alone, and tells all of it.
 * @param port not yet open; it is open for the trial alone.
 * @throws whatever the port itself throws: it is gone, it is held by another program.
 */
export async function tryOperation(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink & { drive: LinkScript },
  component: Component,
  operation: Tryable,
): Promise<Trial> {
  const events: ScriptEvent[] = []
  const show = (field: string, value: string) => {
    const lines = pageLine(family, field, value)
    return lines.length > 0 ? lines : [`${field}: ${value}`]
  }
  const driver = scriptDriver(port, clock, link.drive, component, link.line!, show, (event) => {
    if (events.length < maxEvents) events.push(event)
  })
  await port.open(link.line!)
  const startedAt = clock.now()
  const done = (rest: Partial<Trial>): Trial => ({
    operation,
    tookMs: clock.now() - startedAt,
    events,
    lines: [],
    ...rest,
  })
  try {
    if (link.drive.opens) await port.setLines(link.drive.opens)
    const region = applicationRegions(component)[0]
    if (operation !== 'read' || !region) {
      const way = family.entry.find(({ kind }) => kind === 'command')
      const slots = way?.kind === 'command' ? { command: way.send } : {}
      return done({ lines: (await driver.run(operation, { slots })).lines })
    }
    const bytes = new Uint8Array(Math.min(triedBytes, region.length))
    await driver.run('read', { range: { address: region.address, length: bytes.length }, into: bytes })
    return done({ bytes })
  } catch (error) {
    if (!isProblem(error) || error.facts.kind.startsWith('port-')) throw error
    return done({ problem: error.facts })
  } finally {
    await port.close()
  }
}
