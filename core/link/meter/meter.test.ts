import { serialLine } from '@bench-wake/standins'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { asciiBytes, asciiText, isProblem, virtualClock } from '../../kernel'
import type { Port } from '../port'
import { askedLineScript, askedLineWords, type AskedLine } from '../script'
import { BenchMeter, meterOver } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const line = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 } as const
const words: AskedLine = { sends: 'V', lineEnd: '\r', answer: 'V={volts}', withinMs: 500 }
const form = (speaks: object) =>
  v.parse(BenchMeter, { name: 'Bench meter', port: 'serial:/dev/x', line, speaks })

/** A meter at a line: what it hears it answers by `says`; null is silence. */
async function at(meter: BenchMeter, says: (asked: string) => string | null, first = '') {
  const clock = virtualClock(turn)
  const wire = serialLine({ name: 'meter', clock, unit: line })
  const heard: string[] = []
  const play = async (unit: Port) => {
    if (first) await unit.write(asciiBytes(first))
    for (;;) {
      const bytes = await unit.read(64, Infinity)
      if (!bytes) return
      const asked = asciiText(bytes)
      heard.push(asked)
      const answer = says(asked)
      if (answer !== null) await unit.write(asciiBytes(answer))
    }
  }
  await wire.host.open(line)
  void play(wire.unit).catch(() => {})
  return { meter: meterOver(meter, wire.host, clock), clock, heard, end: () => wire.pull() }
}

describe('a meter that speaks SCPI', () => {
  // Source: SCPI-1999, volume 2, MEASure subsystem; numbers by IEEE 488.2.
  it('is asked for a direct voltage, or by the words of its own manual', async () => {
    const usual = await at(form({ kind: 'scpi' }), () => '+1.2410E+01\n')
    expect(await usual.meter.volts()).toBeCloseTo(12.41, 9)
    expect(usual.heard).toEqual(['MEAS:VOLT?\n'])
    const own = await at(form({ kind: 'scpi', query: 'MEAS:VOLT:DC? 20' }), () => '12.38\n')
    expect(await own.meter.volts()).toBe(12.38)
    expect(own.heard).toEqual(['MEAS:VOLT:DC? 20\n'])
    expect(own.meter.name).toBe('Bench meter')
  })
})

describe('a meter with words of its own', () => {
  const scripted = form({ kind: 'script', script: askedLineScript(words) })
  it.each([
    ['V=12.41\r\n', 12.41],
    ['V=12.41 V\r\n', 12.41],
    ['V= 12410 mV\r\n', 12.41],
    ['V=-0.02\r\n', -0.02],
    ['V=12,41 V\r\n', 12.41],
  ])('answers %j', async (answer, volts) => {
    const { meter, heard } = await at(scripted, () => answer)
    expect(await meter.volts()).toBeCloseTo(volts, 9)
    expect(heard).toEqual(['V\r'])
  })
  it('is silent, or says other things: nothing was measured', async () => {
    for (const answer of [null, 'ready\r\n', 'xV=12\r\n', 'V=12'])
      expect(await (await at(scripted, () => answer)).meter.volts(), String(answer)).toBeNull()
  })
  it.each(['V=OL\r\n', 'V=12.4 A\r\n', 'V=12 41\r\n'])(
    'that answers %j gave no voltage, and that is said',
    async (answer) => {
      const { meter } = await at(scripted, () => answer)
      await expect(meter.volts()).rejects.toSatisfy((error) => isProblem(error, 'meter-number'))
    },
  )
  it('may talk by itself: the next whole line counts, and nothing is sent', async () => {
    const talking = form({
      kind: 'script',
      script: askedLineScript({ ...words, sends: '', answer: '{volts}' }),
    })
    const { meter, heard, clock } = await at(talking, () => null)
    const asked = meter.volts()
    await clock.sleep(10)
    expect(heard).toEqual([])
    await expect(asked).resolves.toBeNull()
  })
  it('is asked again and again, each answer its own', async () => {
    let volts = 12.5
    const { meter } = await at(scripted, () => `V=${(volts -= 0.1).toFixed(2)}\r\n`)
    expect([await meter.volts(), await meter.volts(), await meter.volts()]).toEqual([12.4, 12.3, 12.2])
  })
})

describe('what is written down of a meter', () => {
  it('comes back as its words, and a script of another shape does not pretend to', () => {
    expect(askedLineWords(askedLineScript(words))).toEqual(words)
    const silent: AskedLine = { sends: '', lineEnd: '', answer: '{volts}', withinMs: 2000 }
    expect(askedLineWords(askedLineScript(silent))).toEqual(silent)
    const longer = askedLineScript(words)
    longer.operations.page!.steps.unshift({ do: 'wait', ms: 10 })
    expect(askedLineWords(longer)).toBeNull()
  })
  const refused = (speaks: object) => {
    const { success, issues } = v.safeParse(BenchMeter, { name: 'M', port: 'p', line, speaks })
    return success ? 'kept' : (issues[0]?.message ?? '')
  }
  it('is refused where no page tells the volts, where it can do more than read, and where its script is no good', () => {
    const script = askedLineScript(words)
    const steps = script.operations.page!.steps
    expect(refused({ kind: 'script', script })).toBe('kept')
    expect(refused({ kind: 'script', script: { ...script, operations: {} } })).toContain('one operation')
    const more = { ...script.operations, start: { steps: [{ do: 'send', text: 'x' }] } }
    expect(refused({ kind: 'script', script: { ...script, operations: more } })).toContain('one operation')
    const untold = {
      page: { steps: steps.map((step) => (step.do === 'tell' ? { ...step, field: 'amps' } : step)) },
    }
    expect(refused({ kind: 'script', script: { ...script, operations: untold } })).toContain('"volts"')
    const unfilled = { page: { steps: steps.filter(({ do: does }) => does !== 'expect') } }
    expect(refused({ kind: 'script', script: { ...script, operations: unfilled } })).toContain('{volts}')
    expect(refused({ kind: 'scpi', query: '  ' })).not.toBe('kept')
  })
})
