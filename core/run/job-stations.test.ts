import { describe, expect, it } from 'vitest'
import { foldWake, freshForMs, jobStations, openStation, type KeelFacts } from '.'
import { rehearse } from './rehearsal.test-support'

const now = Date.UTC(2026, 10, 24, 9)
const facts: KeelFacts = {
  now,
  unitReadAt: now - 60_000,
  unitSays: 'main 2.41, hardware 3.1',
  image: { says: 'main 2.48', verdict: 'go' },
  run: null,
  closed: false,
}

describe('the stations', () => {
  // Source: LOOK, "the stations": Unit, Image, StepContext, Entry, Write, Proof, Close; one open, later ones say what they wait for.
  it('opens the first station that is not done', () => {
    expect(openStation({ ...facts, unitReadAt: null })).toBe('unit')
    expect(openStation({ ...facts, unitReadAt: now - freshForMs - 1 })).toBe('unit')
    expect(openStation({ ...facts, image: null })).toBe('image')
    expect(openStation({ ...facts, image: { says: 'other hardware', verdict: 'stop' } })).toBe('image')
    expect(openStation(facts)).toBe('bench')
  })
  it('never shows a station as go that is not known', () => {
    const waiting = jobStations(facts).filter((station) => station.state === 'waiting')
    expect(waiting.map((station) => station.id)).toEqual(['entry', 'write', 'proof', 'close'])
    expect(waiting.every((station) => station.verdict === 'unknown' && station.says !== '')).toBe(true)
  })
  it('follows a run through entry, write and proof to close', async () => {
    const { events } = await rehearse()
    const visited = events.map((_, at) => openStation({ ...facts, run: foldWake(events.slice(0, at + 1)) }))
    expect([...new Set(visited)]).toEqual(['entry', 'write', 'proof', 'close'])
    const done = jobStations({ ...facts, run: foldWake(events), closed: true })
    expect(done.every((station) => station.state === 'done')).toBe(true)
    expect(done.find((station) => station.id === 'proof')?.says).toBe('the unit says 2.48')
  })
  it('stays where a run was cut, and says at which byte', async () => {
    const { state } = await rehearse({ faults: { powerFailsAtByte: 150_000 } })
    const stations = jobStations({ ...facts, run: state })
    const open = stations.find((station) => station.state === 'open')!
    expect(open.id).toBe('write')
    expect(open.verdict).toBe('stop')
    expect(open.says).toMatch(/at byte 14\d\s\d{3} of 262\s144/)
  })
})
