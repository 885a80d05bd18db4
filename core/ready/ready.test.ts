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
    const gate = judgeSupply({ power }, volts)
    expect(gate.verdict).toBe(verdict)
    expect(gate.findings[0]!.says).toMatch(words)
    expect(gate.numbers['supplyVolts']).toBe(volts ?? undefined)
  })
  // PRACTICE D8: what is opened dead is not switched on for a meter; a handheld is measured with the cells that will feed it.
  it('is measured where and when the profile says', () => {
    const remedy = (measure: object, on: { id: string; does: string }[] = []) =>
      judgeSupply({ power: { ...power, ...measure }, powerOrder: { on, off: [] } }, null).findings[0]!.remedy
    const cells = [
      { id: 'cover-off', does: 'Cover off.' },
      { id: 'fresh-cells', does: 'Fresh cells in.' },
    ]
    const contacts = { at: 'at the battery contacts', unit: 'off' }
    expect(remedy({})).toBe('Measure at the unit’s terminals, with the unit on, and type the volts.')
    expect(remedy({ measure: { ...contacts, behind: 'fresh-cells' } }, cells)).toBe(
      'First: Fresh cells in. Measure at the battery contacts, with the unit off, and type the volts.',
    )
    expect(remedy({ measure: contacts }, cells)).not.toContain('First')
    expect(remedy({ measure: contacts })).not.toContain('unit on')
  })
  it('is never better with less', () => {
    const rank = { go: 0, note: 1, hold: 2, stop: 3, unknown: 4 }
    for (let volts = 10; volts < 15; volts += 0.05) {
      expect(rank[judgeSupply({ power }, volts).verdict]).toBeGreaterThanOrEqual(
        rank[judgeSupply({ power }, volts + 0.05).verdict] - (volts + 0.05 > 15 ? 3 : 0),
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
