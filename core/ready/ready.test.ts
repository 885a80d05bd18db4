import { describe, expect, it } from 'vitest'
import { judgePort, judgeSupply } from '.'

const power = { nominalVolts: 12, floorVolts: 12, ceilingVolts: 15, amps: { idle: 1, erase: 2, write: 2 } }

describe('the supply before a write', () => {
  // PRACTICE D1, common practice: never below 12.0 V on a vehicle.
  it.each([
    [null, 'hold', /not measured/],
    [11.7, 'stop', /11\.70 V; the floor is 12\.00 V/],
    [12.1, 'hold', /0\.10 V above the floor/],
    [12.6, 'go', /0\.60 V above/],
    [15.2, 'stop', /above the ceiling/],
  ] as const)('at %s V is %s', (volts, verdict, words) => {
    const gate = judgeSupply(power, volts)
    expect(gate.verdict).toBe(verdict)
    expect(gate.findings[0]!.says).toMatch(words)
    expect(gate.numbers['supplyVolts']).toBe(volts ?? undefined)
  })
  it('is never better with less', () => {
    const rank = { go: 0, note: 1, hold: 2, stop: 3, unknown: 4 }
    for (let volts = 10; volts < 15; volts += 0.05) {
      expect(rank[judgeSupply(power, volts).verdict]).toBeGreaterThanOrEqual(
        rank[judgeSupply(power, volts + 0.05).verdict] - (volts + 0.05 > 15 ? 3 : 0),
      )
    }
  })
})

describe('the port', () => {
  const port = { id: 'p', name: 'p', standIn: false, present: true }
  // PRACTICE C3, C5, common practice: no port, no driver; one program a port.
  it.each([
    [null, 'stop'],
    [{ ...port, present: false }, 'stop'],
    [{ ...port, heldBy: 'run-1' }, 'stop'],
    [{ ...port, standIn: true }, 'note'],
    [port, 'go'],
  ] as const)('%j is %s', (choice, verdict) => {
    expect(judgePort(choice).verdict).toBe(verdict)
  })
})
