import { demoHexOf, demoImages, fogSignalFamily as family } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { identifyImage, readIntelHex } from '../../image'
import { asciiBytes, Problem, type Finding } from '../../kernel'
import type { Snapshot } from '../../unit'
import type { RunImage, StepContext } from '../step-context'
import type { WakeBody } from '../wake'
import { stepActs } from '.'

/* PRACTICE A1, B1, B5: what the unit says at the last moment decides whether anything is written into it. */

const imageOf = (at: number): RunImage => {
  const { name, image } = demoImages[at]!
  const { memory } = readIntelHex(asciiBytes(demoHexOf(image)))
  return { name, memory, identity: identifyImage(memory, [family]) }
}
const [newer, older, forHardware2] = [imageOf(0), imageOf(1), imageOf(2)]
const component = family.components[0]!

const says = (own: Record<string, string | null> = {}) =>
  Object.entries({
    device: 'FS-20',
    hardware: '3.1',
    serial: 'FS3-00417',
    boot: '1.3',
    main: '2.41',
    built: '2025-03-04T10:12Z',
    ...own,
  }).flatMap(([word, value]) => (value === null ? [] : [`${word} ${value}`]))
const lastPage = (version = '2.41'): Snapshot => ({
  at: 1,
  source: 'menu' as Snapshot['source'],
  lines: [
    { field: 'deviceIdentifier', label: 'Device', value: 'FS-20' },
    { field: 'hardware', label: 'Hardware', value: '3.1' },
    { field: 'serial', label: 'Serial', value: 'FS3-00417' },
    { field: 'version.main', label: 'Main firmware', value: version },
  ],
})

async function identify(
  page: { lines: string[]; inBootloader?: boolean },
  own: Record<string, unknown> = {},
) {
  const events: WakeBody[] = []
  const bench = {
    step: 2,
    family,
    component,
    unit: { id: 'fog-07', serial: 'FS3-00417' },
    pieces: [{ component, image: newer }],
    releases: [],
    changed: false,
    goesOnAt: null,
    loader: { can: { resume: true } },
    clock: { now: () => 9 },
    wake: { record: async (body: WakeBody) => void events.push(body) },
    driver: { page: async () => ({ inBootloader: false, ...page }) },
    ...own,
  } as unknown as StepContext
  const fault = await stepActs.identify(bench).then(
    () => null,
    (error: unknown) => (error instanceof Problem ? error.facts : error),
  )
  const of = <T extends WakeBody['type']>(type: T) =>
    events.filter((body): body is Extract<WakeBody, { type: T }> => body.type === type)
  const findings: Finding[] = of('findings').flatMap((body) => body.findings)
  const level = (rule: string) => findings.find((each) => each.rule === rule)?.level
  return { fault, bench, events, of, findings, level }
}

describe('the unit on the cable', () => {
  it('is written where its page fits the image: page and judgement are recorded before', async () => {
    const { fault, events, of, bench, level } = await identify({ lines: says() })
    expect(fault).toBeNull()
    expect(events.map(({ type }) => type)).toEqual(['snapshot', 'findings'])
    expect(of('snapshot')[0]).toMatchObject({ step: 2, when: 'before', snapshot: { at: 9, source: 'link' } })
    expect(of('snapshot')[0]).not.toHaveProperty('refused')
    expect(bench.before!.lines.find(({ field }) => field === 'version.main')!.value).toBe('2.41')
    expect([bench.inBootloader, bench.cameInBootloader]).toEqual([false, false])
    expect(level('version-direction')).toBe('go')
  })
  it('that is another one is refused by both serials; its page is kept as refused and nothing is judged', async () => {
    const { fault, events, of } = await identify({ lines: says({ serial: 'FS3-00418' }) })
    expect(fault).toMatchObject({
      kind: 'wrong-unit',
      expected: 'serial FS3-00417',
      found: 'serial FS3-00418',
    })
    expect(events.map(({ type }) => type)).toEqual(['snapshot'])
    expect(of('snapshot')[0]).toMatchObject({ refused: 'serial FS3-00418, not FS3-00417' })
  })
  it('that says no serial is taken by what was known of it, and by nothing where nothing was', async () => {
    const mute = says({ serial: null })
    expect((await identify({ lines: mute })).fault).toBeNull()
    const other = { ...lastPage(), lines: [{ field: 'serial', label: 'Serial', value: 'FS3-00999' }] }
    expect((await identify({ lines: mute }, { lastPage: other })).fault).toMatchObject({
      kind: 'wrong-unit',
      found: 'serial FS3-00999',
    })
    // What it says itself stands over what was known.
    expect((await identify({ lines: says() }, { lastPage: other })).fault).toBeNull()
  })
})

describe('fit at the last moment', () => {
  it.each([
    ['an image of another hardware line', { lines: says() }, forHardware2, 'hardware-major', 'stop'],
    [
      'a unit of another hardware line',
      { lines: says({ hardware: '2.0' }) },
      newer,
      'hardware-major',
      'stop',
    ],
    ['another device', { lines: says({ device: 'FS-40' }) }, newer, 'device-identifier', 'stop'],
    [
      'a way back that the family refuses',
      { lines: says({ main: '2.48' }) },
      older,
      'version-direction',
      'stop',
    ],
    ['the same version again', { lines: says({ main: '2.48' }) }, newer, 'version-direction', 'hold'],
  ])('refuses %s by its first finding, with nothing written', async (_, page, image, rule, wanted) => {
    const { fault, level, findings } = await identify(page, { pieces: [{ component, image }] })
    expect(level(rule)).toBe(wanted)
    const first = findings.find((each) => each.level === wanted)!
    expect(fault).toMatchObject({
      kind: 'does-not-fit',
      says: first.says.replace(/\.$/, ''),
      found: first.because,
    })
    expect((fault as { remedy: string }).remedy).toMatch(/^Nothing was written\. /)
  })
  it('lets a hold go that was released by name, that hold alone, and never a stop', async () => {
    const released = (rule: string) => ({ releases: [{ rule, name: 'A. Lund', reason: 'garbled' }] })
    const same = { lines: says({ main: '2.48' }) }
    expect((await identify(same, released('version-direction'))).fault).toBeNull()
    expect((await identify(same, released('hardware-major'))).fault).toMatchObject({ kind: 'does-not-fit' })
    const stopped = { pieces: [{ component, image: forHardware2 }], ...released('hardware-major') }
    expect((await identify({ lines: says() }, stopped)).fault).toMatchObject({ kind: 'does-not-fit' })
  })
  it('lets a version go on that an earlier leg wrote and did not prove; nothing else of it', async () => {
    const same = { lines: says({ main: '2.48' }) }
    const again = await identify(same, { changed: true })
    expect(again.fault).toBeNull()
    const told = again.findings.find(({ rule }) => rule === 'version-direction')!
    expect(told.level).toBe('note')
    expect(told.because).toMatch(/An earlier leg wrote it and did not prove it\.$/)
    // Another version than the one that was written is judged as ever.
    const back = await identify(same, { changed: true, pieces: [{ component, image: older }] })
    expect(back.fault).toMatchObject({ kind: 'does-not-fit' })
    const other = await identify({ lines: says({ main: '2.48', hardware: '2.0' }) }, { changed: true })
    expect(other.fault).toMatchObject({ kind: 'does-not-fit' })
  })
  it('is asked by nobody who writes nothing', async () => {
    for (const task of ['check', 'read-out', 'codes'] as const) {
      const { fault, events } = await identify(
        { lines: says() },
        { task, pieces: [{ component, image: forHardware2 }] },
      )
      expect(fault, task).toBeNull()
      expect(events.map(({ type }) => type)).toEqual(['snapshot'])
    }
    const other = await identify({ lines: says({ serial: 'X-1' }) }, { task: 'check' })
    expect(other.fault).toMatchObject({ kind: 'wrong-unit' })
  })
  it('names the component of each finding where a run is about several, and judges each', async () => {
    const two = [
      { component, image: newer },
      { component: { ...component, name: 'Second processor' }, image: forHardware2 },
    ]
    const { fault, findings } = await identify({ lines: says() }, { pieces: two })
    expect(findings.filter(({ says: text }) => text.startsWith('Main processor: ')).length).toBeGreaterThan(3)
    expect(fault).toMatchObject({ kind: 'does-not-fit' })
    expect((fault as { says: string }).says).toMatch(/^Second processor: the image is for hardware 2/)
    // A component into which nothing goes has nothing to fit.
    const none = await identify({ lines: says() }, { pieces: [two[0]!, { component, image: null }] })
    expect(none.fault).toBeNull()
    const one = await identify({ lines: says() })
    expect(one.findings.some(({ says: text }) => text.startsWith('Main processor: '))).toBe(false)
  })
})

// PRACTICE H6: a half-written unit waits in its bootloader, and the write goes on there, or begins again.
describe('a unit in its bootloader', () => {
  const loaderPage = { lines: ['boot 1.3', 'serial FS3-00417'], inBootloader: true }
  it('is told, and fits by what its firmware last said', async () => {
    const { fault, bench, events, of } = await identify(loaderPage, { lastPage: lastPage() })
    expect(fault).toBeNull()
    expect(events[0]).toEqual({ type: 'note', step: 2, says: 'The unit is in its bootloader already.' })
    expect([bench.inBootloader, bench.cameInBootloader]).toEqual([true, true])
    expect(of('snapshot')[0]!.snapshot.inBootloader).toBe(true)
    // Lines from before are borrowed for the proof, and say where they were read.
    expect(bench.before!.lines.find(({ field }) => field === 'hardware')).toMatchObject({
      value: '3.1',
      source: 'menu',
    })
    expect(bench.before!.lines.find(({ field }) => field === 'bootloader')).not.toHaveProperty('source')
    expect(of('snapshot')[0]!.snapshot.lines.some(({ field }) => field === 'hardware')).toBe(false)
  })
  it('goes on at its byte; one that runs its firmware begins anew, and so does a loader that cannot', async () => {
    const at = { goesOnAt: 4096, lastPage: lastPage() }
    expect((await identify(loaderPage, at)).bench.goesOnAt).toBe(4096)
    expect((await identify({ lines: says() }, at)).bench.goesOnAt).toBeNull()
    const cannot = { ...at, loader: { can: { resume: false } } }
    expect((await identify(loaderPage, cannot)).bench.goesOnAt).toBeNull()
  })
  it('is held against the page before the first leg, where there is one', async () => {
    const firstPage = lastPage('2.30')
    expect((await identify({ lines: says() }, { firstPage })).bench.before).toBe(firstPage)
    expect((await identify({ lines: says() }, { lastPage: lastPage() })).bench.before!.at).toBe(9)
  })
})

// PRACTICE B2, K1: one version has come with other bytes; what this bench wrote is known by its digest.
it('what was written here is known by its digest while the unit says that version, and no other', async () => {
  const [one, other] = ['a'.repeat(64), 'b'.repeat(64)]
  const brings = { ...newer, contentSha256: one }
  const told = async (wrote: { version: string; sha256: string } | null) => {
    const made = await identify(
      { lines: says({ main: '2.48' }) },
      { pieces: [{ component, image: brings, wrote }] },
    )
    return made.findings.find(({ rule }) => rule === 'version-direction')!
  }
  expect((await told({ version: '2.48', sha256: one })).says).toBe(
    'Nothing to do: the unit already has 2.48, byte for byte.',
  )
  expect(await told({ version: '2.48', sha256: other })).toMatchObject({
    level: 'note',
    says: 'The unit has 2.48 too, with other bytes.',
  })
  for (const wrote of [null, { version: '2.41', sha256: other }])
    expect(await told(wrote)).toMatchObject({ says: 'Nothing to do: the unit already has 2.48.' })
})
