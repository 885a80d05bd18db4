import { describe, expect, it } from 'vitest'
import { isProblem } from '../kernel'
import { judgeBaud, judgeLead, judgeTermination, sums, workSum } from '.'

/*
 * What a calculator shows for what was typed: its lines, its picture and its findings, worked out by hand here from the source
 * that stands beside each, and typed as texts, so that a figure that is right but shown wrong is found too.
 */

const sum = (id: string) => sums.find((each) => each.id === id)!
const shown = (id: string, typed: Record<string, string> = {}) => {
  const usual = Object.fromEntries(sum(id).fields.map((field) => [field.id, field.usual]))
  const { says, picture, findings } = workSum(sum(id), { ...usual, ...typed })
  return {
    says: Object.fromEntries(says.map(({ label, value }) => [label, value])),
    picture,
    levels: findings.map(({ rule, level }) => `${rule} ${level}`),
  }
}
const bar = (label: string, value: number, more: object = {}) => ({
  label,
  parts: [{ label: '', value: expect.closeTo(value, 6) as number }],
  ...more,
})

describe('what stands below a calculator', () => {
  it('lead: copper of 1.724 µΩ cm at 20 °C, there and back; gauges of ASTM B258', () => {
    // ρ = 1/58 Ω mm²/m (IEC 60028): 6 m through 2.5 mm² are 0.04138 Ω; at 10 A 0.41 V and 4.1 W.
    const ohms = (2 * 3) / 58 / 2.5
    // ASTM B258: gauge n has 0.127 mm · 92^((36 − n)/39) of diameter.
    const area = (gauge: number) => (Math.PI / 4) * (0.127 * 92 ** ((36 - gauge) / 39)) ** 2
    const { says, picture } = shown('lead-drop')
    expect(says).toEqual({
      'Lost in the lead': '0.41 V',
      'There and back': '41.4 mohm',
      'As heat': '4.1 W',
      'Nearest gauge': `13 AWG, ${area(13).toFixed(2)} mm²`,
    })
    expect(10 * ohms).toBeCloseTo(0.4138, 4)
    const drop = (gauge: number) => ((2 * 3) / 58 / area(gauge)) * 10
    expect(picture).toMatchObject({ kind: 'bars', unit: 'V lost' })
    expect((picture as { rows: object[] }).rows).toEqual([
      bar('16 AWG', drop(16), { chosen: false }),
      bar('13 AWG', drop(13), { chosen: true }),
      bar('10 AWG', drop(10), { chosen: false }),
      bar('7 AWG', drop(7), { chosen: false }),
    ])
  })
  it('charging from a generator: current times voltage, over the efficiency of the charger', () => {
    // 48 V · 10 A = 480 W into the battery, over 0.9: 533 W; 1000 − 533 = 467 W left; 10 kWh at 480 W are 20.8 h.
    const one = shown('generator-share')
    expect(one.says).toEqual({
      'Out of the generator': '533 W',
      'Into the battery': '480 W',
      'Left for loads': '467 W',
      'Until full': '20.8 h',
    })
    expect(one.picture).toEqual({
      kind: 'bars',
      unit: 'W',
      limit: { label: 'generator', value: 1000 },
      rows: [
        {
          label: 'charging',
          parts: [
            { label: 'first', value: expect.closeTo(480 / 0.9, 6) },
            { label: 'second', value: 0 },
          ],
        },
      ],
    })
    expect(one.levels).toEqual(['generator-share go'])
    // Two at 10 A want 1067 W of 1000.
    const two = shown('generator-share', { secondAmps: '10 A' })
    expect(two.levels).toEqual(['generator-share stop'])
    expect(two.says['Out of the generator']).toBe('1067 W')
  })
  it('thresholds: the span between start and stop, and the floor below both', () => {
    expect(shown('threshold-order')).toEqual({
      says: { 'Between start and stop': '5.00 V' },
      picture: {
        kind: 'scale',
        unit: 'V',
        marks: [
          { label: 'floor', value: 48, limit: true },
          { label: 'start', value: 49 },
          { label: 'stop', value: 54 },
        ],
      },
      levels: ['threshold-order go'],
    })
    expect(shown('threshold-order', { startVolts: '54 V', stopVolts: '49 V' }).levels).toEqual([
      'threshold-order stop',
    ])
  })
  it('frequency: 58 to 63 Hz at 60, and the same share at 50', () => {
    expect(shown('frequency-window')).toEqual({
      says: { Measured: '60.0 Hz' },
      picture: {
        kind: 'scale',
        unit: 'Hz',
        window: { from: 58, to: 63 },
        marks: [{ label: 'measured', value: 60 }],
      },
      levels: ['frequency-window go'],
    })
    const fifty = shown('frequency-window', { hertz: '48.3 Hz', system: '50 Hz' })
    // 58/60 · 50 = 48.33 Hz.
    expect(fifty.levels).toEqual(['frequency-window stop'])
    expect(fifty.picture).toMatchObject({
      window: { from: expect.closeTo(48.3333, 3), to: expect.closeTo(52.5, 6) },
    })
  })
  it('baud: clock over divisor and looks a bit, and where the last bit is looked at', () => {
    // 48 MHz / (16 · 26) = 115 385; 16 MHz / (16 · 9) = 111 111; they differ by 26 · 16/48 to 9 · 16/16: 3.85 %.
    const one = shown('baud-error')
    expect(one.says).toEqual({
      Difference: '3.85 %',
      Adapter: '115385 baud, divisor 26',
      Unit: '111111 baud, divisor 9',
    })
    expect(one.levels).toEqual(['baud-error stop'])
    const ratio = 9 / 16e6 / (26 / 48e6)
    expect(one.picture).toEqual({
      kind: 'bits',
      bits: 10,
      samples: Array.from({ length: 10 }, (_, bit) => expect.closeTo((bit + 0.5) / ratio, 9) as number),
    })
    const said = shown('baud-error', { firstDivisor: '25', secondDivisor: '1', frame: '8E1' })
    expect(said.says).toMatchObject({ Adapter: '120000 baud, divisor 25', Unit: '1000000 baud, divisor 1' })
    expect(said.picture).toMatchObject({ bits: 11 })
  })
  it.each([
    ['8N1', 10],
    ['8E1', 11],
    ['8N2', 11],
    ['8E2', 12],
    ['7E1', 10],
  ])('a character of %s has %i bits: start, data, parity, stop (EIA-404)', (frame, bits) => {
    expect(shown('baud-error', { frame }).picture).toMatchObject({ bits })
  })
  // ISO 11898-2: 120 Ω at both ends, 60 Ω between the wires.
  it.each([
    ['60 ohm', 'As it should be', '60 ohm', 2, 'go'],
    ['120 ohm', undefined, undefined, 1, 'stop'],
    ['40 ohm', undefined, undefined, 3, 'stop'],
  ])('a bus of %s', (ohms, label, value, terminators, level) => {
    const { says, picture, levels } = shown('termination', { ohms })
    expect(picture).toEqual({ kind: 'bus', terminators })
    expect(levels[0]).toMatch(new RegExp(`^termination (${level}|hold)$`))
    if (label) expect(says).toEqual({ [label]: value })
  })
  it('laptop: twice the run is wanted, and a bank at three quarters of its print', () => {
    expect(shown('laptop-time')).toEqual({
      says: { Wanted: '22 min' },
      picture: {
        kind: 'bars',
        unit: 'min',
        limit: { label: 'wanted', value: 22 },
        rows: [
          bar('the run', 11),
          {
            label: 'battery',
            parts: [
              { label: 'battery', value: 90 },
              { label: 'bank', value: 0 },
            ],
            chosen: true,
          },
        ],
      },
      levels: ['laptop-time go'],
    })
    expect(shown('laptop-time', { leftMs: '21 min' }).levels).not.toEqual(['laptop-time go'])
  })
  it('ampere-hours: what is drawn faster than in twenty hours counts for more (Peukert 1897)', () => {
    // (8 / 3.5)^0.2 = 1.1798: 8 A count as 9.44 A; 0.8 · 70 Ah last 5.93 h and give 47.5 Ah; full, 7.4 h.
    const counted = 8 * (8 / (70 / 20)) ** 0.2
    expect(shown('ampere-hours')).toEqual({
      says: { Lasts: '5 h 56 min', Usable: '47.5 Ah', 'Counts as': '9.4 A', 'Full battery': '7.4 h' },
      picture: {
        kind: 'bars',
        unit: 'Ah',
        rows: [bar('printed', 70), bar('usable', (8 * 0.8 * 70) / counted, { chosen: true })],
      },
      levels: [],
    })
    // Nothing drawn lasts for ever, and no full battery is told by a time.
    expect(shown('ampere-hours', { amps: '0 A' }).says).toEqual({
      Lasts: 'nothing draws',
      Usable: '56.0 Ah',
      'Counts as': '0.0 A',
    })
  })
  it('vehicle bus: 111 bits a frame of eight bytes to 135 with the most stuff bits (ISO 11898-1)', () => {
    const { says, picture } = shown('bus-time')
    expect(says).toEqual({
      'In all': '14 s',
      'On the wire': '9.8 s to 11 s',
      Frames: '28608',
      'Bits a frame': '111 to 135',
    })
    const rows = (picture as { rows: { label: string; parts: { label: string; value: number }[] }[] }).rows
    expect(rows.map(({ label }) => label)).toEqual(['no stuff bits', 'likely', 'most stuff bits'])
    for (const { parts } of rows) {
      expect(parts.map(({ label }) => label)).toEqual(['erase', 'wire'])
      expect(parts[0]!.value).toBe(4)
    }
    expect(rows[1]).toMatchObject({ chosen: true })
    expect(rows[0]!.parts[1]!.value).toBeLessThan(rows[1]!.parts[1]!.value)
    expect(rows[1]!.parts[1]!.value).toBeLessThan(rows[2]!.parts[1]!.value)
  })
})

describe('a battery’s calculators, beside its own arithmetic in core/ready/power/by-hand.test.ts', () => {
  it('sag: the lowest of the curve is what is told, and the floor is drawn', () => {
    const { says, picture, levels } = shown('sag')
    const { points } = picture as unknown as { points: { x: number; y: number }[] }
    expect(points[0]!.x).toBe(0)
    expect(points.at(-1)!.x).toBeCloseTo(15, 6)
    const lowest = Math.min(...points.map(({ y }) => y))
    expect(says).toMatchObject({
      Lowest: `${lowest.toFixed(2)} V`,
      'At once': `${points[0]!.y.toFixed(2)} V`,
      'Above the floor': `${(lowest - 12).toFixed(2)} V`,
    })
    expect(picture).toMatchObject({ kind: 'curve', xUnit: 'min', yUnit: 'V' })
    expect(levels).toEqual(['sag stop'])
    expect(shown('sag', { floorVolts: '11.5 V' }).levels).toEqual(['sag go'])
  })
  it('charger: the smallest of its row that holds the floor is chosen', () => {
    const { says, picture } = shown('charger-size')
    const { rows, limit, unit } = picture as unknown as {
      unit: string
      limit: object
      rows: { label: string; parts: { value: number }[]; chosen: boolean }[]
    }
    expect([unit, limit]).toEqual(['V', { label: 'floor', value: 12 }])
    expect(rows.map(({ label }) => label)).toEqual(['none', '1 A', '2 A', '3 A', '4 A'])
    const first = rows.findIndex(({ parts }) => parts[0]!.value >= 12)
    expect(rows.map(({ chosen }) => chosen)).toEqual(rows.map((_, index) => index === first))
    expect(says).toMatchObject({
      'Smallest charger': rows[first]!.label,
      'Lowest without': `${rows[0]!.parts[0]!.value.toFixed(2)} V`,
      'Lowest with it': `${rows[first]!.parts[0]!.value.toFixed(2)} V`,
    })
  })
  it('shedding: loads go off in their order, and no more than is needed', () => {
    const all = shown('shed-list')
    expect(all.says).toMatchObject({ Shed: 'all is not enough' })
    expect(all.levels).toEqual(['shed-list stop'])
    // With a floor between the first and the second step, one load is enough.
    const one = shown('shed-list', { floorVolts: '11.6 V' })
    expect(one.says).toMatchObject({ Shed: 'Headlamps' })
    const rows = (
      one.picture as unknown as { rows: { label: string; chosen: boolean; parts: { value: number }[] }[] }
    ).rows
    expect(rows.map(({ chosen }) => chosen)).toEqual([false, true])
    expect(rows.map(({ parts }) => parts[0]!.value)).toEqual(
      rows.map(({ parts }) => parts[0]!.value).toSorted((a, b) => a - b),
    )
    // With all on above the floor nothing is shed.
    expect(shown('shed-list', { floorVolts: '11 V' }).levels).toEqual(['shed-list go'])
  })
})

describe('what is typed', () => {
  const cases = sums.flatMap(({ id, fields }) =>
    fields.filter(({ choices }) => !choices).map((field) => [`${id}, ${field.label}`, id, field] as const),
  )
  it.each(cases)('%s: is refused below its lowest and above its highest, by its place', (_, id, field) => {
    const usual = Object.fromEntries(sum(id).fields.map((each) => [each.id, each.usual]))
    const unit = /[^\d.\s].*$/.exec(field.usual)?.[0] ?? ''
    const scale =
      { KiB: 1024, mohm: 1e-3, MHz: 1e6, kW: 1e3, kWh: 1e3, min: 60_000, s: 1000, '%': 1 }[unit] ?? 1
    const typed = (value: number) => `${value / scale} ${unit}`.trim()
    const tried = (value: number) => {
      try {
        workSum(sum(id), { ...usual, [field.id]: typed(value) })
        return null
      } catch (error) {
        return isProblem(error) ? JSON.stringify(error.facts) : String(error)
      }
    }
    const [min, max] = [field.min!, field.max!]
    expect(tried(max + Math.max(1, max * 0.01))).toContain(`"at":"${field.id}"`)
    expect(tried(min - Math.max(1, Math.abs(min)))).toContain(`"at":"${field.id}"`)
  })
})

describe('what is asked', () => {
  // The questions of a technician, in their words; every label once.
  it.each([
    ['lead-drop', ['Length, one way', 'Cross-section', 'Current', 'Temperature']],
    ['ampere-hours', ['Printed capacity', 'State of charge', 'Draw']],
    ['frequency-window', ['Measured', 'System']],
    ['threshold-order', ['Generator starts below', 'And stops above', 'The unit’s floor']],
    ['termination', ['Measured between the wires']],
    ['laptop-time', ['The run takes', 'The battery lasts', 'Power bank on it', 'The laptop draws']],
    ['run-time', ['Image', 'Speed', 'Erasing takes', 'Programming takes']],
    [
      'baud-error',
      [
        'Speed wanted',
        'Clock of the adapter',
        'Clock of the unit',
        'Divisor of the adapter (0: the nearest)',
        'Divisor of the unit (0: the nearest)',
        'Times a bit is sampled',
        'Bits of a character',
      ],
    ],
    [
      'sag',
      [
        'Battery',
        'Cells in series',
        'Printed capacity',
        'State of charge',
        'Temperature',
        'Draw',
        'Leads, there and back',
        'For',
        'Floor',
      ],
    ],
  ])('%s', (id, labels) => {
    expect(sum(id).fields.map(({ label }) => label)).toEqual(labels)
    expect(sum(id).name).toMatch(/\S/)
  })
  it('a choice that is none is refused with all of them', () => {
    try {
      workSum(sum('baud-error'), { frame: '9N1' })
      expect.unreachable()
    } catch (error) {
      expect(isProblem(error) && error.facts).toMatchObject({
        kind: 'quantity',
        place: { at: 'frame' },
        expected: '8N1, 8E1, 8N2, 8E2, 7E1',
        found: '9N1',
      })
    }
    // A blank at its end is no other choice.
    expect(shown('baud-error', { frame: ' 8E1 ' }).picture).toMatchObject({ bits: 11 })
  })
})

describe('a finding of a calculator, to its boundary', () => {
  const ends = (share: number) =>
    [
      { clockHertz: 1_000_000, clocksPerBit: 100 },
      { clockHertz: 1_000_000 * (1 + share), clocksPerBit: 100 },
    ] as const
  // 3.75 % over ten bits looked at sixteen times; two thirds of it are 2.5 %.
  it.each([
    [0.0249, 'go', 'The ends differ by 2.49 %; the last bit is sampled right.'],
    [0.0251, 'hold', 'The ends differ by 2.51 %: it works on a short lead, and not for sure.'],
    [0.0374, 'hold', 'The ends differ by 3.74 %: it works on a short lead, and not for sure.'],
    [0.0376, 'stop', 'The ends differ by 3.76 %: the last bit is sampled in the next one.'],
  ])('two ends that differ by %s: %s', (share, level, says) => {
    const finding = judgeBaud(...ends(share))
    expect([finding.level, finding.says]).toEqual([level, says])
    expect(finding.because).toBe(
      `3.75 % is allowed over 10 bits looked at 16 times each; the dividers alone leave ${(share * 100).toFixed(2)} %.`,
    )
    expect(finding.remedy).toBe(
      level === 'go' ? undefined : 'Take a slower speed, or one that both clocks divide to.',
    )
  })
  it('a bit that is looked at four times allows nothing, and says so', () => {
    const finding = judgeBaud(...ends(0), { oversampling: 4 })
    expect(finding.level).toBe('stop')
    expect(finding.says).toBe('Looked at 4 times a bit, no difference between the ends can be allowed.')
  })
  // ISO 11898-2: 120 Ω at each end; 15 % either way (common practice).
  it.each([
    [51, 'go', 'Both ends are terminated.'],
    [69, 'go', 'Both ends are terminated.'],
    [69.1, 'hold', 'This is no number of terminators.'],
    [102, 'hold', 'One terminator is missing.'],
    [138, 'hold', 'One terminator is missing.'],
    [46, 'hold', 'There is a terminator too many.'],
    [33.9, 'hold', 'This is no number of terminators.'],
    [10, 'hold', 'This is no number of terminators.'],
    [9.9, 'stop', 'The two wires touch.'],
    [1000, 'hold', 'This is no number of terminators.'],
    [1001, 'hold', 'No terminator is on the bus.'],
  ])('%s ohm between the wires: %s', (ohms, level, says) => {
    const finding = judgeTermination(ohms)
    expect([finding.rule, finding.level, finding.says]).toEqual(['termination', level, says])
    expect(finding.numbers).toEqual({ measuredOhms: ohms, wantedOhms: 60 })
    expect(finding.because).toContain(`measured ${ohms} ohm`)
    expect(finding.remedy === undefined).toBe(level === 'go')
  })
  it('a lead takes three hundredths of the floor and no more, its contacts counted', () => {
    // 10 m of 1 mm² are 2 · 10 / 58 = 0.3448 Ω; with 15.2 mΩ of contacts 0.36 Ω: 1 A takes 0.36 V, 3 % of 12 V.
    const form = { metres: 10, squareMillimetres: 1, amps: 1, contactOhms: 0.36 - 20 / 58 }
    expect(judgeLead({ ...form, amps: 0.999 }, 12).level).toBe('go')
    expect(judgeLead({ ...form, amps: 0.999 }, 12)).not.toHaveProperty('remedy')
    const over = judgeLead({ ...form, amps: 1.01 }, 12)
    expect([over.rule, over.level]).toEqual(['lead-drop', 'hold'])
    expect(over.remedy).toMatch(/shorter lead, or one of 1\.1 mm² or more/)
    // Source: Ohm's law. A lead of the size that is named does; one a tenth thinner does not.
    expect(judgeLead({ ...form, squareMillimetres: 1.1, amps: 1.01 }, 12).level).toBe('go')
    // 0.2 Ω of contacts alone take 0.4 V of the 0.36 at 2 A: no lead mends that.
    const worn = judgeLead({ metres: 1, squareMillimetres: 16, amps: 2, contactOhms: 0.2 }, 12)
    expect([worn.level, worn.remedy]).toEqual(['hold', expect.stringMatching(/contacts alone.*renew/)])
    expect(over.numbers).toMatchObject({
      leadOhms: expect.closeTo(0.36, 9),
      allowedVolts: expect.closeTo(0.36, 9),
    })
  })
})
