import { describe, expect, it } from 'vitest'
import { asciiBytes } from '../../kernel'
import type { Progress } from '../loader'
import { factsOf } from '../refusal.test-support'
import type { TimedAnswer, TimedUnit } from '../timed-port.test-support'
import { atHand, component } from './script-bench.test-support'

/* The bootloader that a script describes, by what goes over its line: a unit answers each command by hand. */

const says = (text: string, afterMs = 1): TimedAnswer => [[afterMs, [...asciiBytes(text)]]]
const go = { abandon: { raised: false } }
const send = (text: string) => ({ do: 'send', text: `${text}\r` })
const awaits = (...patterns: object[]) => ({ do: 'expect', patterns, withinMs: 100 })
const ok = awaits({ text: 'ok\n' }, { text: 'no {reason}\n', means: 'refused' })
const does = (...steps: object[]) => ({ steps })

/** A loader with some operations, at a unit that answers to the words of a command. */
function made(
  operations: Record<string, object>,
  answers: Record<string, string | undefined> = {},
  more: object = {},
) {
  const unit: TimedUnit = (bytes) => {
    const answer = answers[Buffer.from(bytes).toString().trim().split(' ')[0]!]
    return answer === undefined ? [] : says(answer)
  }
  const { driver, loader, written } = atHand(operations, unit, { more })
  return {
    driver,
    loader,
    asked: () => written.map((bytes) => Buffer.from(bytes).toString().trim()),
  }
}

describe('what a loader can', () => {
  it('is what its script has operations for', () => {
    const can = (operations: Record<string, object>, more?: object) => made(operations, {}, more).loader.can
    const any = does(send('x'))
    const nothing = { read: false, erase: false, verify: 'version-only', resume: false }
    expect(can({ write: any })).toEqual(nothing)
    expect(can({ write: any, erase: any }, { resumes: true })).toEqual({
      ...nothing,
      erase: true,
      resume: true,
    })
    expect(can({ read: any })).toEqual({ ...nothing, read: true, verify: 'read-back' })
    // A sum says more than reading all of it out: it is asked where there is one.
    expect(can({ read: any, check: any })).toEqual({ ...nothing, read: true, verify: 'checksum' })
  })
  it('is not offered where it has none, and what has none sends nothing', async () => {
    const { loader, asked } = made({ write: does(send('w')) })
    expect([loader.read, loader.rehearse]).toEqual([undefined, undefined])
    await loader.attach()
    await loader.erase({ address: 0, length: 16 }, () => {})
    await loader.startApplication()
    expect(await loader.identify()).toEqual([])
    expect(asked()).toEqual([])
  })
})

describe('a bootloader that is asked whether it is there', () => {
  const attach = does(send('hello'), ok)
  it('is there where it answers as it should', async () => {
    const { loader, asked } = made({ attach }, { hello: 'ok\n' })
    await loader.attach()
    expect(asked()).toEqual(['hello'])
  })
  it.each([
    ['is silent', undefined, { kind: 'no-bootloader', found: 'silence' }],
    ['says something else', 'what?\n', { kind: 'no-bootloader', found: '"what?\\n"' }],
    ['refuses', 'no locked\n', { kind: 'no-bootloader', found: 'locked' }],
  ])('is not where it %s, and the unit is as it was', async (_how, answer, facts) => {
    const told = await factsOf(made({ attach }, { hello: answer }).loader.attach())
    expect(told).toMatchObject(facts)
    expect(told!.remedy).toMatch(/^The unit is unchanged/)
  })
  it('says what was awaited, where that is known', async () => {
    const facts = (answer?: string) => factsOf(made({ attach }, { hello: answer }).loader.attach())
    expect((await facts())!.expected).toContain('ok')
    expect(await facts('no locked\n')).not.toHaveProperty('expected')
  })
  it('is not judged by what is no answer of its own', async () => {
    const nobody = does({ do: 'ask', says: 'Press the key.' })
    expect((await factsOf(made({ attach: nobody }).loader.attach()))!.kind).toBe('nobody-to-ask')
  })
  it('says of itself what its script gathers', async () => {
    const identify = does(send('id'), awaits({ text: 'v{version}\n' }), {
      do: 'tell',
      field: 'version',
      value: '{version}',
    })
    expect(await made({ identify }, { id: 'v4.7\n' }).loader.identify()).toEqual(['version: 4.7'])
  })
})

describe('what changes a unit', () => {
  const operations = {
    unlock: does(send('unlock'), ok),
    erase: does({ do: 'each', of: 'sector', steps: [send('erase {address} {length}'), ok] }),
    write: does({ do: 'each', of: 'chunk', bytes: 4, steps: [send('write {offset} {address}'), ok] }),
  }
  const dryRun = does({ do: 'each', of: 'chunk', bytes: 8, steps: [send('try {address}'), ok] })
  const answers = { unlock: 'ok\n', erase: 'ok\n', write: 'ok\n', try: 'ok\n' }
  const image = new Uint8Array(12)
  const writing = async (
    from: number | undefined,
    more: object = {},
    own: Record<string, object> = operations,
  ) => {
    const { loader, asked } = made(own, answers, more)
    const told: Progress[] = []
    await loader.write(0x2000, image, (progress) => void told.push(progress), go.abandon, from)
    return { asked: asked(), told }
  }
  it('is unlocked first, where there is a way to', async () => {
    const { loader, asked } = made(operations, answers)
    const told: Progress[] = []
    await loader.erase({ address: 0x1000, length: 0x2000 }, (progress) => void told.push(progress))
    expect(asked()).toEqual(['unlock', 'erase 4096 4096', 'erase 8192 4096'])
    expect(told.map(({ done, total, unit }) => [done, total, unit])).toEqual([
      [1, 2, 'sectors'],
      [2, 2, 'sectors'],
    ])
    expect((await writing(undefined)).asked[0]).toBe('unlock')
    const { unlock: _, ...open } = operations
    expect((await writing(undefined, {}, open)).asked).toEqual([
      'write 0 8192',
      'write 4 8196',
      'write 8 8200',
    ])
  })
  it('is not touched while it is locked', async () => {
    const { loader, asked } = made(operations, { ...answers, unlock: 'no key\n' })
    const range = { address: 0x1000, length: 0x1000 }
    expect((await factsOf(loader.erase(range, () => {})))!.found).toBe('key')
    expect((await factsOf(loader.write(0, image, () => {}, go.abandon)))!.found).toBe('key')
    expect(asked()).toEqual(['unlock', 'unlock'])
  })
  it('is told byte by byte to the last, and from where it went on', async () => {
    const whole = await writing(undefined)
    expect(whole.told.map(({ done, total, unit }) => [done, total, unit])).toEqual(
      [4, 8, 12, 12].map((done) => [done, 12, 'bytes']),
    )
    const rest = await writing(8, { resumes: true })
    expect(rest.asked).toEqual(['unlock', 'write 0 8200'])
    expect(rest.told.map(({ done, total }) => [done, total])).toEqual([
      [12, 12],
      [12, 12],
    ])
  })
  it('is begun anew where its write cannot begin in the middle', async () => {
    expect((await writing(8)).asked).toEqual((await writing(0)).asked)
  })
  it('counts bytes alone: sectors that a unit erases on the way are no bytes', async () => {
    const busy = does(
      send('write'),
      awaits({ text: 'at {done}/{total}\n', means: 'progress' }, { text: 'ok\n' }),
    )
    const { loader } = made({ write: busy }, { write: 'at 1/3\nat 2/3\nok\n' })
    const told: Progress[] = []
    await loader.write(0, image, (progress) => void told.push(progress), go.abandon)
    expect(told).toEqual([{ done: 12, total: 12, unit: 'bytes', retries: 0 }])
  })
  it('stays as it is in a rehearsal, which goes its own way', async () => {
    const { loader, asked } = made({ ...operations, dryRun }, answers)
    await loader.rehearse!(0x2000, image, () => {}, go.abandon)
    expect(asked()).toEqual(['unlock', 'try 8192', 'try 8200'])
  })
  it('is abandoned between two pieces', async () => {
    const { loader, asked } = made(operations, answers)
    const abandon = { raised: false }
    const facts = await factsOf(
      loader.write(0x2000, image, ({ done }) => void (abandon.raised = done === 8), abandon),
    )
    expect(facts).toMatchObject({ kind: 'write-abandoned', place: { offset: 8 } })
    expect(asked()).toHaveLength(3)
  })
  it('starts its firmware by its own operation', async () => {
    const { loader, asked } = made({ start: does(send('go'), ok) }, { go: 'ok\n' })
    await loader.startApplication()
    expect(asked()).toEqual(['go'])
  })
})

describe('what a script may name in a command', () => {
  const named = async (text: string, more: object = {}) => {
    const { driver, asked } = made({ write: does(send(text)) }, {}, more)
    await driver.run('write', { range: { address: 0x2000, length: 12 }, image: new Uint8Array(12) })
    return asked()
  }
  it('is the range, the part, and where it is staged', async () => {
    expect(await named('{address} {length} {size} {end} {last} {offset}')).toEqual(['8192 12 12 8204 8203 0'])
    expect(await named('{component}')).toEqual([component.id])
    expect(await named('{staging}', { staging: 'bank 2' })).toEqual(['bank 2'])
  })
  it('is what was asked with it', async () => {
    const { driver, asked } = made({ enter: does(send('boot {command}')) })
    await driver.run('enter', { slots: { command: 'now' } })
    expect(asked()).toEqual(['boot now'])
  })
  it('is nothing that the script lacks', async () => {
    await expect(made({ start: does(send('go')) }).driver.run('erase')).rejects.toThrow(TypeError)
  })
  it('knows of what was said before it was asked nothing', async () => {
    const attach = does(send('hello'), ok)
    const { driver } = atHand({ attach }, () => [], { first: says('ok\n', 0) })
    expect((await factsOf(driver.run('attach')))!.kind).toBe('no-answer')
  })
})

describe('a number that frames carry', () => {
  it('goes on from one operation to the next, also behind one that failed', async () => {
    const frame = {
      layout: 'A5 {length:u8} {sequence:u8} {payload}',
      escape: 'none',
      maxPayload: 8,
      tries: 1,
    }
    const ask = does({ do: 'frame', bytes: '10', answer: [{ bytes: '90' }], withinMs: 100 })
    const unit: TimedUnit = (bytes, nth) => (nth === 1 ? [] : [[1, [0xa5, 1, bytes[2]!, 0x90]]])
    const { driver, written } = atHand({ attach: ask }, unit, { more: { frame } })
    await driver.run('attach')
    expect((await factsOf(driver.run('attach')))!.kind).toBe('no-answer')
    await driver.run('attach')
    // The one that was not answered went out as it was: its number too.
    expect(written.map(([, , number]) => number)).toEqual([0, 1, 1])
  })
})

describe('what was written', () => {
  const image = Uint8Array.from({ length: 16 }, (_, at) => at)
  const sum = does(send('sum {address} {length}'), awaits({ text: 'sum {sum:hex2}\n' }, { text: 'none\n' }), {
    do: 'compare',
    slot: 'sum',
    checksum: 'sum8',
  })
  const verified = (operations: Record<string, object>, unit: TimedUnit) =>
    atHand(operations, unit).loader.verify(0x1000, image)
  // 0 to 7 make 28, 8 to 15 make 92.
  it('is equal where the sum of each half is', async () => {
    expect(await verified({ check: sum }, (_, nth) => says(['sum 1c\n', 'sum 5c\n'][nth]!))).toEqual({
      outcome: 'equal-checksum',
      by: '8-bit sum',
      expected: '1C and 5C over 16 bytes',
      found: '1C and 5C over 16 bytes',
    })
  })
  it.each([
    ['the first', ['sum 1d\n', 'sum 5c\n']],
    ['the second', ['sum 1c\n', 'sum 5b\n']],
    ['each other’s', ['sum 5c\n', 'sum 1c\n']],
  ])('differs where %s half does', async (_what, answers) => {
    expect((await verified({ check: sum }, (_, nth) => says(answers[nth]!))).outcome).toBe('different')
  })
  it.each([
    ['none', ['none\n', 'none\n'], 'none and none'],
    ['that of the first half alone', ['sum 1c\n', 'none\n'], '1C and none'],
    ['that of the second half alone', ['none\n', 'sum 5c\n'], 'none and 5C'],
  ])('is not compared where the unit gives %s', async (_what, answers) => {
    expect(await verified({ check: sum }, (_, nth) => says(answers[nth]!))).toMatchObject({
      outcome: 'not-comparable',
      found: 'no checksum',
    })
  })
  it('is not compared where the script asks and compares nothing', async () => {
    const bare = await verified({ check: does(send('sum {length}'), ok) }, () => says('ok\n'))
    expect(bare).toMatchObject({ outcome: 'not-comparable', by: 'checksum' })
  })
  it('is read back where there is no sum, and named by its address where it differs', async () => {
    const read = does(send('give'), { do: 'transfer', by: 'plain', withinMs: 100 })
    const back = (at: number, value: number): TimedUnit => {
      const bytes = [...image]
      bytes[at] = value
      return () => [[1, bytes]]
    }
    expect((await verified({ read }, back(0, 0))).outcome).toBe('equal-read-back')
    const differs = await verified({ read }, back(9, 0xff))
    expect(differs.outcome).toBe('different')
    expect(`${differs.expected} ${differs.found}`).toContain('0x00001009')
  })
})
