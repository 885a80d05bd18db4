import { describe, expect, it, vi } from 'vitest'
import { crc32, Problem, virtualClock } from '../../kernel'
import type { Person } from '../person'
import { factsOf } from '../refusal.test-support'
import type { UdsClient, UdsForm, UdsTiming } from './client'
import { udsLoader, type UdsSettings } from './loader'

/*
 * The programming sequence, act by act, at a controller whose every service is answered by hand. Sources: ISO 14229-1 (order
 * of a programming sequence, 0x31 erase and check, 0x34 to 0x37 a transfer), ISO 14229-2 (S3: a session falls shut after
 * five seconds), from memory; which act comes before which is common practice.
 */

const silent = () => new Problem({ kind: 'uds-silent', says: 'silence', remedy: '' })
const refused = () => new Problem({ kind: 'uds-refused', says: 'no', remedy: '' })
const bytes = (...values: number[]) => Uint8Array.from(values)
const never = { raised: false }
const quietly = async () => {}

/** A loader over a controller that says well to everything, but for what a test has it say. */
function bench(settings: Partial<UdsSettings> = {}, person: Person | null = null, longest = Infinity) {
  const clock = virtualClock(() => new Promise((done) => setImmediate(done)))
  const asked: string[] = []
  const says: Partial<Record<keyof UdsClient, (...given: never[]) => unknown>> = {}
  const given: { timing?: UdsTiming; form?: UdsForm } = {}
  const services = [
    ...['session', 'reset', 'readData', 'writeData', 'readFaults', 'clearFaults', 'quiet', 'faultSetting'],
    ...['startRoutine', 'requestDownload', 'requestUpload', 'transfer', 'transferExit', 'testerPresent'],
  ] as const
  const written = (value: unknown): string =>
    value instanceof Uint8Array ? `[${[...value].join(' ')}]` : typeof value === 'object' ? '' : String(value)
  const unit = Object.fromEntries(
    services.map((name) => [
      name,
      async (...each: never[]) => {
        asked.push([name, ...each.map(written)].join(' ').trim())
        return says[name as keyof UdsClient]?.(...each) ?? bytes()
      },
    ]),
  ) as unknown as UdsClient
  const client = Object.assign(unit, {
    repeats: true,
    faultBytes: 3 as const,
    unlock: async (level: number, keyOf: (seed: Uint8Array) => Uint8Array | Promise<Uint8Array>) => {
      asked.push(`unlock ${level} ${written(await keyOf(bytes(1, 2)))}`)
    },
  })
  const transport = {
    name: 'gearbox controller',
    clear: quietly,
    send: quietly,
    receive: async () => null,
    ...(longest === Infinity ? {} : { longest: () => longest }),
  }
  const open = vi.fn(quietly)
  const loader = udsLoader(
    transport,
    clock,
    { eraseRoutine: 0xff00, checkRoutine: 0x0202, ...settings },
    async () => ['a page'],
    open,
    undefined,
    () => person,
    (timing, form) => {
      Object.assign(given, { timing, form })
      return client
    },
  )
  /** What was asked since it was looked at last. */
  const since = () => asked.splice(0)
  return { loader, clock, says, since, open, given, client }
}
/** How a controller is brought to where it is written. */
const entered = ['session 3', 'faultSetting false', 'quiet true', 'session 2']

describe('the way in', () => {
  it('goes by the extended session, with faults and traffic held, to the session that is written in', async () => {
    const { loader, since, open } = bench()
    await loader.attach()
    expect(since()).toEqual(entered)
    expect(open).toHaveBeenCalledOnce()
    expect(loader.can).toEqual({ read: true, erase: true, verify: 'checksum', resume: false })
  })
  it('has preconditions before the last session, and access after it; one session alone comes first', async () => {
    const before = [{ routine: 0x0203, option: '0A 0b', answer: ' 00  .. 10 ', says: 'The engine stands.' }]
    const { loader, since, says } = bench({
      before,
      securityLevel: 1,
      key: [{ do: 'xor', value: '0xFF' }] as never,
    })
    says.startRoutine = () => bytes(0, 77, 16, 9)
    await loader.attach()
    expect(since()).toEqual([
      ...['session 3', 'faultSetting false', 'quiet true', 'startRoutine 515 [10 11]', 'session 2'],
      expect.stringMatching(/^unlock 1 \[/),
    ])
    const one = bench({ sessions: [2] })
    await one.loader.attach()
    expect(one.since()).toEqual(['session 2', 'faultSetting false', 'quiet true'])
  })
  it.each([
    ['another byte', bytes(1, 77, 16), '01 4d 10'],
    ['too few of them', bytes(0, 77), '00 4d'],
    ['none', bytes(), 'no answer byte'],
  ])('is not gone where a precondition answers %s', async (_, answer, found) => {
    const before = [{ routine: 0x0203, answer: ' 00  .. 10 ', says: 'The engine stands.' }]
    const { loader, since, says } = bench({ before })
    says.startRoutine = () => answer
    const facts = await factsOf(loader.attach())
    expect(facts).toMatchObject({
      kind: 'uds-not-ready',
      expected: '00 .. 10',
      says: 'The engine stands',
      found,
    })
    expect(since()).not.toContain('session 2')
  })
  it('takes any answer of a routine that has to say nothing', async () => {
    const { loader, says } = bench({ before: [{ routine: 1, says: 'The lid is shut.' }] })
    says.startRoutine = () => bytes(9)
    await expect(loader.attach()).resolves.toBeUndefined()
  })
  it('takes widths, form of the data and who tells all others from the profile, and nothing else', () => {
    expect(bench().given.form).toEqual({})
    const widths = { address: 3, length: 2 } as const
    expect(bench({ widths, dataFormat: 0, answerMs: 70 }).given).toMatchObject({
      form: { widths, dataFormat: 0 },
      timing: { answerMs: 70 },
    })
  })
  it('tries five times where nothing answers, and says that the unit is unchanged', async () => {
    const { loader, says, since } = bench()
    says.session = () => Promise.reject(silent())
    expect(await factsOf(loader.attach())).toMatchObject({
      kind: 'no-bootloader',
      remedy: expect.stringMatching(/^The unit is unchanged\./),
    })
    expect(since()).toEqual(Array.from({ length: 5 }, () => 'session 3'))
    says.session = () => Promise.reject(refused())
    expect(await factsOf(loader.attach())).toMatchObject({ kind: 'uds-refused' })
    expect(since()).toEqual(['session 3'])
  })
})

describe('a session', () => {
  it('is relied on for less than four seconds after its last word, and opened anew after what failed', async () => {
    const { loader, clock, since, says } = bench()
    const erase = () => loader.erase({ address: 0, length: 4 }, quietly)
    await loader.attach()
    since()
    await clock.sleep(3999)
    await erase()
    expect(since()).toEqual(['startRoutine 65280 [0 0 0 0 0 0 0 4]'])
    await clock.sleep(4000)
    await erase()
    expect(since()).toEqual([...entered, 'startRoutine 65280 [0 0 0 0 0 0 0 4]'])
    says.startRoutine = () => Promise.reject(refused())
    expect(await factsOf(erase())).toMatchObject({ kind: 'uds-refused' })
    since()
    delete says.startRoutine
    await erase()
    expect(since()).toEqual([...entered, 'startRoutine 65280 [0 0 0 0 0 0 0 4]'])
  })
  it('is over with the reset that starts the firmware', async () => {
    const { loader, since } = bench()
    await loader.startApplication()
    expect(since()).toEqual([...entered, 'reset 1'])
    await loader.startApplication()
    expect(since()).toEqual([...entered, 'reset 1'])
  })
  it('is kept open while a person looks for the answer to a seed, and no longer', async () => {
    const asked: string[] = []
    const person: Person = {
      ask: quietly,
      tell: quietly,
      type: async ({ says }) => {
        asked.push(says)
        await made.clock.sleep(7000)
        return 'A1B2'
      },
    }
    const made = bench({ securityLevel: 3, keyTyped: true }, person)
    await made.loader.attach()
    expect(asked).toEqual([expect.stringMatching(/key of level 3\. Its seed is 01 02\./)])
    // Seven seconds: at two, four and six.
    expect(made.since().filter((each) => !entered.includes(each))).toEqual([
      ...['testerPresent', 'testerPresent', 'testerPresent'],
      'unlock 3 [161 178]',
    ])
  })
  it('falls to whoever stops at that question, with nothing asked of the unit after it', async () => {
    const stopped = new Problem({ kind: 'stopped-here', says: 'stopped', remedy: '' })
    const person: Person = { ask: quietly, tell: quietly, type: () => Promise.reject(stopped) }
    const { loader, since } = bench({ securityLevel: 3, keyTyped: true }, person)
    expect(await factsOf(loader.attach())).toMatchObject({ kind: 'stopped-here' })
    expect(since()).toEqual(entered)
  })
  it('stays shut where nobody has the answer to its seed', async () => {
    for (const made of [
      bench({ securityLevel: 3 }, { ask: quietly, tell: quietly, type: async () => 'A1B2' }),
      bench({ securityLevel: 3, keyTyped: true }),
    ]) {
      expect(await factsOf(made.loader.attach())).toMatchObject({ kind: 'uds-no-key' })
      expect(made.since()).toEqual(entered)
    }
  })
})

describe('a transfer', () => {
  it('reads block by block to its length, and tells how often a block was asked for again', async () => {
    const { loader, says, since } = bench()
    const pieces = [bytes(1, 2), silent(), bytes(3, 4), bytes(5)]
    says.transfer = () => {
      const next = pieces.shift()!
      return next instanceof Problem ? Promise.reject(next) : next
    }
    const told: object[] = []
    const report = async (progress: object) => void told.push(progress)
    expect([...(await loader.read!({ address: 16, length: 5 }, report))]).toEqual([1, 2, 3, 4, 5])
    expect(since().slice(entered.length)).toEqual([
      ...['requestUpload 16 5', 'transfer 1', 'transfer 2', 'transfer 2', 'transfer 3', 'transferExit'],
    ])
    expect(told).toEqual([
      { done: 2, total: 5, unit: 'bytes', retries: 0 },
      { done: 4, total: 5, unit: 'bytes', retries: 1 },
      { done: 5, total: 5, unit: 'bytes', retries: 1 },
    ])
  })
  it.each([
    ['nothing', bytes()],
    ['a byte too much', bytes(3, 4, 5, 6)],
  ])('that gives %s is none, at its place', async (_, second) => {
    const { loader, says } = bench()
    const pieces = [bytes(1, 2), second]
    says.transfer = () => pieces.shift()
    expect(await factsOf(loader.read!({ address: 0, length: 5 }, quietly))).toMatchObject({
      kind: 'uds-answer',
      place: { offset: 2 },
    })
  })
  it.each([
    ['as the controller says', Infinity, 5],
    ['as the carrier holds, where that is less', 4, 4],
    ['as the controller says, where that is less', 9, 5],
  ])('writes pieces as long %s, less two bytes of head', async (_, longest, most) => {
    const { loader, says, since } = bench({}, null, longest)
    says.requestDownload = () => 5
    await loader.write(0, bytes(1, 2, 3, 4), quietly, never)
    expect(since()[entered.length + 1]).toBe(most === 5 ? 'transfer 1 [1 2 3]' : 'transfer 1 [1 2]')
  })
  it('has its dependencies checked once all is there; one that is not met is told', async () => {
    const { loader, says, since } = bench({
      after: [{ routine: 7, answer: '00', says: 'It fits the rest.' }],
    })
    says.requestDownload = () => 12
    says.startRoutine = () => bytes(1)
    expect(await factsOf(loader.write(0, bytes(1), quietly, never))).toMatchObject({ kind: 'uds-not-ready' })
    expect(since().slice(-2)).toEqual(['transferExit', 'startRoutine 7 []'])
  })
  it('is left where a person abandons it, before the next block and at its byte', async () => {
    const { loader, says, since } = bench()
    const abandon = { raised: false }
    says.requestDownload = () => 4
    says.transfer = () => void (abandon.raised = true)
    expect(await factsOf(loader.write(0, bytes(1, 2, 3), quietly, abandon))).toMatchObject({
      kind: 'write-abandoned',
      place: { offset: 2 },
    })
    expect(since().slice(entered.length)).toEqual(['requestDownload 0 3', 'transfer 1 [1 2]'])
  })
  it('without numbers sends no block twice', async () => {
    const { loader, says, client, since } = bench()
    Object.assign(client, { repeats: false })
    says.requestDownload = () => 4
    says.transfer = () => Promise.reject(silent())
    expect(await factsOf(loader.write(0, bytes(1), quietly, never))).toMatchObject({ kind: 'uds-silent' })
    expect(await factsOf(loader.read!({ address: 0, length: 1 }, quietly))).toMatchObject({
      kind: 'uds-silent',
    })
    expect(since().filter((each) => each.startsWith('transfer '))).toEqual(['transfer 1 [1]', 'transfer 1'])
  })
  it('whose end was answered and not heard is ended: asked again it is refused, and the check says the rest', async () => {
    const { loader, says } = bench()
    const ends = [silent(), refused()]
    says.requestDownload = () => 4
    says.transferExit = () => Promise.reject(ends.shift()!)
    expect(await factsOf(loader.write(0, bytes(1), quietly, never))).toBeNull()
  })
  it.each([
    ['refused at once', [refused()], 'uds-refused'],
    ['never answered', Array.from({ length: 5 }, silent), 'uds-silent'],
  ])('whose end is %s is not written', async (_, ends, kind) => {
    const { loader, says } = bench()
    says.requestDownload = () => 4
    says.transferExit = () => Promise.reject(ends.shift()!)
    expect(await factsOf(loader.write(0, bytes(1), quietly, never))).toMatchObject({ kind })
  })
})

describe('erasing and checking', () => {
  it('leaves its fingerprint first, and gives the erase the time of one that needs longer', async () => {
    const { loader, says, since } = bench({ fingerprint: { identifier: 0xf15a, bytes: '20 26 aB' } })
    const times: unknown[] = []
    says.startRoutine = (...given) => void times.push(given[2])
    await loader.erase({ address: 256, length: 512 }, quietly)
    expect(since().slice(entered.length)).toEqual([
      'writeData 61786 [32 38 171]',
      'startRoutine 65280 [0 0 1 0 0 0 2 0]',
    ])
    expect(times).toEqual([expect.objectContaining({ answerMs: 5100 })])
  })
  const image = bytes(...'123456789'.split('').map((digit) => digit.charCodeAt(0)))
  const sumOf = (part: Uint8Array) => {
    const sum = new Uint8Array(4)
    new DataView(sum.buffer).setUint32(0, crc32(part))
    return sum
  }
  it('holds the sum of each half against the image; a half that answers none is not equal', async () => {
    const { loader, says, since } = bench()
    let second = (_: Uint8Array): Uint8Array => sumOf(image.subarray(4))
    says.startRoutine = (_, range: Uint8Array) =>
      range[3] === 0x20 ? sumOf(image.subarray(0, 4)) : second(range)
    expect(await loader.verify!(0x20, image)).toMatchObject({ outcome: 'equal-checksum' })
    expect(since().slice(entered.length)).toEqual([
      'startRoutine 514 [0 0 0 32 0 0 0 4]',
      'startRoutine 514 [0 0 0 36 0 0 0 5]',
    ])
    // The four bytes must be all that it says.
    for (const answer of [bytes(), bytes(1, 2, 3), bytes(...sumOf(image.subarray(4)), 0), sumOf(image)]) {
      second = () => answer
      expect(await loader.verify!(0x20, image)).toMatchObject({ outcome: 'different' })
    }
  })
  it('that answers no sum at all compared nothing', async () => {
    const { loader } = bench()
    expect(await loader.verify!(0x20, image)).toMatchObject({ outcome: 'not-comparable' })
  })
})
