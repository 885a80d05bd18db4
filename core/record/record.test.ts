import { describe, expect, it } from 'vitest'
import { rehearse } from '../run/rehearsal.test-support'
import { drawStrip, logbookRow, stripOf } from '.'

describe('the wake strip', () => {
  // Source: LOOK, "own marks": phases in true proportion of time, a notch for each retry, a tick for each question,
  // a dip where the supply sagged, a torn edge where it was cut.
  it('draws the phases in proportion of their time', async () => {
    const { state } = await rehearse()
    const strip = stripOf(state)
    expect(strip.phases.map(({ kind }) => kind)).toEqual(state.steps.map(({ kind }) => kind))
    const write = strip.phases.find(({ kind }) => kind === 'write')!
    const took = state.steps.find(({ kind }) => kind === 'write')!
    expect(write.toMs - write.fromMs).toBeCloseTo(took.endedAt! - took.startedAt!, 6)
    expect(strip).toMatchObject({ torn: false, retriesMs: [], dips: [] })
    // Two steps of power before, one power cycle after.
    expect(strip.questionsMs).toHaveLength(3)
    const svg = drawStrip(strip, 1000, 20, 'x')
    const widest = Math.max(
      ...[...svg.matchAll(/<rect[^>]* width="([\d.]+)"/g)].map(([, wide]) => Number(wide)),
    )
    expect(widest / 1000).toBeCloseTo((write.toMs - write.fromMs) / strip.totalMs, 2)
  })
  it('begins with the legs that did not reach their end, each torn, without the time between them', async () => {
    const { state } = await rehearse()
    const hour = 3_600_000
    const past = { outcome: 'cut', trouble: null, acknowledged: 0, retries: 0 } as const
    const strip = stripOf({
      ...state,
      pastLegs: [
        {
          ...past,
          leg: 1,
          startedAt: state.startedAt - 2 * hour,
          endedAt: state.startedAt - 2 * hour + 20_000,
        },
        { ...past, leg: 2, startedAt: state.startedAt - hour, endedAt: state.startedAt - hour + 5000 },
      ],
    })
    expect(strip.phases.slice(0, 2).map(({ torn, toMs }) => [torn, toMs])).toEqual([
      [true, 20_000],
      [true, 25_000],
    ])
    expect(strip.totalMs).toBe(stripOf(state).totalMs + 25_000)
    expect(drawStrip(strip, 200, 20, 'x').match(/<path[^>]*Z"/g)).toHaveLength(2)
  })
  it('tears the edge of a cut run, dips where the supply sagged, notches retries', async () => {
    const cut = stripOf((await rehearse({ faults: { powerFailsAtByte: 100_000 } })).state)
    expect(cut.torn).toBe(true)
    expect(cut.phases[cut.phases.length - 1]).toMatchObject({ kind: 'write', state: 'broken' })
    expect(drawStrip(cut, 200, 20, 'x')).toContain('<path d="M')
    const weak = { restVolts: 11.55, voltsPerAh: 0.02, ohms: 0.15, slowOhms: 0.1, slowSeconds: 20 }
    const sagged = stripOf((await rehearse({ supply: weak })).state)
    expect(sagged.dips.length).toBeGreaterThan(0)
    expect(drawStrip(sagged, 200, 20, 'x')).toContain('<circle')
  })
  it('escapes what it is told to say', async () => {
    const strip = stripOf((await rehearse()).state)
    expect(drawStrip(strip, 100, 20, '"><script>')).not.toContain('<script')
  })
})

describe('a row of the logbook', () => {
  // PRACTICE J4, common practice: what unit, which image, from what to what, how long, what went wrong.
  it('tells what a record must', async () => {
    expect(logbookRow((await rehearse()).state)).toMatchObject({
      unitName: 'Fog signal 07',
      serial: 'FS3-00417',
      imageName: 'fs20-main-2.48.hex',
      from: '2.41',
      to: '2.48',
      outcome: 'proved',
      trouble: null,
      verifiedBy: 'checksum',
      bytesAcknowledged: 262_144,
    })
  })
})
