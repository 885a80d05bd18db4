import { componentOf, LinkScript } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import { serialLine } from '@bench-wake/standins'
import * as v from 'valibot'
import type { Component } from '../../family'
import { virtualClock } from '../../kernel'
import type { Person } from '../person'
import type { Port, SerialSettings } from '../port'
import { timedPort, type TimedAnswer, type TimedUnit } from '../timed-port.test-support'
import { scriptDriver, scriptLoader, type ScriptEvent } from '.'

/* A script at one end of a line in virtual time, whatever a test plays at the other. */

export const turn = () => new Promise<void>((done) => setImmediate(done))
export const bytes = (hex: string) => Uint8Array.from(hex.match(/../g) ?? [], (pair) => parseInt(pair, 16))

export const settings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }
export const fog = componentOf(demoFamily('fog-signal'), 'main')
const region = {
  name: 'Application',
  use: 'application' as const,
  address: 0,
  length: 0x10000,
  sectorBytes: 0x1000,
  pageBytes: 256,
}
export const component: Component = { ...fog, memory: { ...fog.memory, regions: [region] } }
export const memory = { bytes: 0x10000, sectorBytes: 0x1000, pageBytes: 256 }

/** A script at one end of a line, whatever `play` does at the other. */
export async function bench(
  operations: object,
  play: (unit: Port) => Promise<void>,
  more: object = {},
  person: Person | null = null,
) {
  const clock = virtualClock(turn)
  const line = serialLine({ name: 'line', clock, unit: settings })
  await line.host.open(settings)
  void play(line.unit).catch(() => {})
  const events: ScriptEvent[] = []
  const script = v.parse(LinkScript, { speaks: 'script', operations, ...more })
  const driver = scriptDriver(
    line.host,
    clock,
    script,
    component,
    settings,
    (field, value) => [`${field}: ${value}`],
    (event) => events.push(event),
    () => person,
  )
  return { clock, driver, script, events, loader: scriptLoader(driver, 'line'), end: () => line.pull() }
}
export const silent = async () => {}
export const awaits = (patterns: object[], withinMs = 1000) => ({ do: 'expect', patterns, withinMs })

/**
 * A script at a unit that answers by hand, each answer in its time.
 * @param more what the script has beside its operations.
 * @param first what comes unasked.
 */
export function atHand(
  operations: object,
  unit: TimedUnit,
  {
    more = {},
    first = [],
    line = settings,
  }: { more?: object; first?: TimedAnswer; line?: SerialSettings } = {},
) {
  const clock = virtualClock(turn)
  const timed = timedPort(clock, line, unit, first)
  const script = v.parse(LinkScript, { speaks: 'script', operations, ...more })
  const driver = scriptDriver(timed.port, clock, script, component, line, (field, value) => [
    `${field}: ${value}`,
  ])
  return { ...timed, clock, driver, loader: scriptLoader(driver, timed.port.name) }
}
