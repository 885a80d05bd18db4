import { LinkScript } from '@bench-wake/core/family'
import { demoFamily } from '@bench-wake/demo'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import type { FamilyLink } from '../../family'
import { asciiBytes, virtualClock } from '../../kernel'
import { factsOf } from '../refusal.test-support'
import { timedPort, type TimedUnit } from '../timed-port.test-support'
import { component, settings, turn } from './script-bench.test-support'
import { scriptLinkDriver } from './driver'

/* A unit whose link is data: firmware and bootloader by what each of them answers by hand. */

const fog = demoFamily('fog-signal')
const send = (text: string) => ({ do: 'send', text: `${text}\r` })
const ok = {
  do: 'expect',
  patterns: [{ text: 'ok\n' }, { text: 'no {reason}\n', means: 'refused' }],
  withinMs: 100,
}
const does = (...steps: object[]) => ({ steps })
const operations = {
  page: does(send('id'), {
    do: 'page',
    until: [{ text: '> ' }, { text: 'no {reason}\n', means: 'refused' }],
    withinMs: 100,
  }),
  enter: does(send('boot {command}'), ok),
  attach: does(send('hello'), ok),
  identify: does(
    { do: 'tell', field: 'bootloader', value: '2.1' },
    { do: 'tell', field: 'key', value: 'none' },
  ),
  start: does(send('go'), ok),
}

/** The driver of a link with some operations, at a unit that answers to the words of a command. */
function made(own: object, answers: Record<string, string> = {}, more: object = {}) {
  const clock = virtualClock(turn)
  const unit: TimedUnit = (bytes) => {
    const word = Buffer.from(bytes).toString().trim().split(' ')[0]!
    return answers[word] === undefined ? [] : [[1, [...asciiBytes(answers[word])]]]
  }
  const { port, written, opened, lines } = timedPort(clock, settings, unit)
  const script = v.parse(LinkScript, { speaks: 'script', operations: own, ...more })
  const link = { ...fog.links[0]!, line: settings } as FamilyLink
  const driver = scriptLinkDriver(port, clock, fog, link, script, component)
  return {
    driver,
    opened: () => opened.map(({ baudRate }) => baudRate),
    lines,
    asked: () => written.map((bytes) => Buffer.from(bytes).toString().trim()),
  }
}
const firmware = { id: 'main 2.41\r\nhorn low\r\n> ', boot: 'ok\n' }
const bootloader = { hello: 'ok\n', go: 'ok\n' }

describe('a unit’s page', () => {
  it('is what its firmware says', async () => {
    const { driver, asked } = made(operations, firmware)
    expect(await driver.page()).toEqual({ lines: ['main 2.41', 'horn low'], inBootloader: false })
    expect(asked()).toEqual(['id'])
  })
  it.each([
    ['is silent', bootloader],
    ['refuses', { ...bootloader, id: 'no page\n' }],
  ])('is what its bootloader says where the firmware %s', async (_how, answers) => {
    const { driver, asked } = made(operations, answers)
    // A field of the page in its form, and one that the profile does not know by its name.
    expect(await driver.page()).toEqual({ lines: ['boot 2.1', 'key: none'], inBootloader: true })
    expect(asked()).toEqual(['id', 'hello'])
  })
  it('is the failure of the firmware where neither answers: that says more about the wiring', async () => {
    const facts = (own: object, answers = {}) => factsOf(made(own, answers).driver.page())
    expect(await facts(operations)).toMatchObject({ kind: 'no-answer', place: { at: 'page.1' } })
    expect(await facts(operations, { id: 'no page\n' })).toMatchObject({
      kind: 'unit-refused',
      found: 'page',
    })
    const { attach: _, ...without } = operations
    expect(await facts(without)).toMatchObject({ kind: 'no-answer', place: { at: 'page.1' } })
  })
  it('is not asked of the bootloader where something else went wrong', async () => {
    const { driver, asked } = made(
      { ...operations, page: does({ do: 'ask', says: 'Press the key.' }) },
      bootloader,
    )
    expect((await factsOf(driver.page()))!.kind).toBe('nobody-to-ask')
    expect(asked()).toEqual([])
  })
  it('is unknown where the firmware is asked nothing: silence of the bootloader is no fault', async () => {
    const { page: _, ...without } = operations
    expect(await made(without).driver.page()).toEqual({ lines: [], inBootloader: false })
    expect((await made(without, bootloader).driver.page()).inBootloader).toBe(true)
    const { driver, asked } = made({ start: operations.start })
    expect(await driver.page()).toEqual({ lines: [], inBootloader: false })
    expect(asked()).toEqual([])
  })
  it('is asked again and again by its own operation, or by the page', async () => {
    expect(await made(operations, firmware).driver.live!()).toEqual(['main 2.41', 'horn low'])
    const live = does(send('live'), { do: 'page', until: [{ text: '> ' }], withinMs: 100 })
    expect(await made({ ...operations, live }, { live: 'supply 12.4\r\n> ' }).driver.live!()).toEqual([
      'supply 12.4',
    ])
    expect(made({ start: operations.start }).driver.live).toBeUndefined()
  })
})

describe('whether the bootloader is there', () => {
  const probe = (answers: Record<string, string>, own: object = operations) =>
    made(own, answers).driver.probeBootloader()
  it('is yes, no, no with what was said, or not known', async () => {
    expect(await probe(bootloader)).toEqual({ bootloader: true })
    expect(await probe({})).toEqual({ bootloader: false })
    expect(await probe({ hello: 'what?\n' })).toEqual({ bootloader: false, text: '"what?\\n"' })
    expect(await probe({}, { start: operations.start })).toEqual({ bootloader: null })
  })
})

describe('a link of data', () => {
  it('is opened at its own speed, with its lines where the script has any', async () => {
    const plain = made(operations)
    await plain.driver.open()
    expect([plain.opened(), plain.lines]).toEqual([[115_200], []])
    const { driver, lines } = made(operations, {}, { opens: { dtr: false, rts: true } })
    await driver.open()
    expect(lines).toEqual([{ dtr: false, rts: true }])
  })
  it('goes down its slower speeds one by one, and back to its own for the firmware', async () => {
    const { driver, opened, asked } = made(operations, bootloader, { slowerSpeeds: [57_600, 19_200] })
    await driver.open()
    expect([await driver.slower!(), await driver.slower!(), await driver.slower!()]).toEqual([
      57_600,
      19_200,
      null,
    ])
    await driver.loader.startApplication()
    expect(opened()).toEqual([115_200, 57_600, 19_200, 115_200])
    expect(asked()).toEqual(['go'])
    expect(made(operations).driver.slower).toBeUndefined()
  })
  it('stays at its own speed where it never left it', async () => {
    const { driver, opened } = made(operations, bootloader)
    await driver.open()
    await driver.loader.startApplication()
    await driver.loaderOf!(component).startApplication()
    expect(opened()).toEqual([115_200])
  })
  it('enters by the command that the way in names, where it has an operation for it', async () => {
    const { driver, asked } = made(operations, firmware)
    await driver.enter!('now')
    expect(asked()).toEqual(['boot now'])
    expect(made({ start: operations.start }).driver.enter).toBeUndefined()
  })
  it('asks the person who is beside it now', async () => {
    const { driver } = made({ ...operations, attach: does({ do: 'ask', says: 'Press the key.' }) })
    const said: string[] = []
    driver.withPerson!({
      ask: async ({ says }) => void said.push(says),
      type: async () => '',
      tell: async () => {},
    })
    await driver.loader.attach()
    expect(said).toEqual(['Press the key.'])
  })
})
