import { LinkScript, type Checksum, type CrcModel } from '@bench-wake/core/family'
import crc from 'crc'
import fc from 'fast-check'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { linkScriptFaults, type DrivenLink } from '../../family'
import { asciiBytes, asciiText, isProblem } from '../../kernel'
import { linkReadWireMs, linkRehearses, linkVerifies } from '../drive'
import type { Person } from '../person'
import type { Port } from '../port'
import { receiveXmodem, xmodemWireMs } from '../xmodem'
import {
  checksumOf,
  decodeFrame,
  encodeFrame,
  frameDialect,
  frameEnd,
  scriptLikelyMs,
  scriptTailMs,
  scriptLongestMs,
  stuff,
  unstuff,
} from '.'
import { awaits, bench, bytes, memory, settings, silent } from './script-bench.test-support'

const check = asciiBytes('123456789')
const model = (
  width: number,
  poly: number,
  init: number,
  refin: boolean,
  refout: boolean,
  xorout: number,
): CrcModel => ({ width, poly, init, refin, refout, xorout })

describe('a checksum by the parameters of the catalogue', () => {
  // Source: catalogue of parametrised CRC algorithms, the check values of "123456789" (from memory of the catalogue).
  it.each<[string, CrcModel, number]>([
    ['CRC-3/GSM', model(3, 0x3, 0, false, false, 0x7), 0x4],
    ['CRC-5/USB', model(5, 0x05, 0x1f, true, true, 0x1f), 0x19],
    ['CRC-7/MMC', model(7, 0x09, 0, false, false, 0), 0x75],
    ['CRC-8/SMBUS', model(8, 0x07, 0, false, false, 0), 0xf4],
    ['CRC-8/MAXIM-DOW', model(8, 0x31, 0, true, true, 0), 0xa1],
    ['CRC-12/UMTS', model(12, 0x80f, 0, false, true, 0), 0xdaf],
    ['CRC-15/CAN', model(15, 0x4599, 0, false, false, 0), 0x059e],
    ['CRC-16/ARC', model(16, 0x8005, 0, true, true, 0), 0xbb3d],
    ['CRC-16/XMODEM', model(16, 0x1021, 0, false, false, 0), 0x31c3],
    ['CRC-16/IBM-3740', model(16, 0x1021, 0xffff, false, false, 0), 0x29b1],
    ['CRC-16/KERMIT', model(16, 0x1021, 0, true, true, 0), 0x2189],
    ['CRC-16/MODBUS', model(16, 0x8005, 0xffff, true, true, 0), 0x4b37],
    ['CRC-24/OPENPGP', model(24, 0x864cfb, 0xb704ce, false, false, 0), 0x21cf02],
    ['CRC-32/ISO-HDLC', model(32, 0x04c11db7, 0xffffffff, true, true, 0xffffffff), 0xcbf43926],
    ['CRC-32/BZIP2', model(32, 0x04c11db7, 0xffffffff, false, false, 0xffffffff), 0xfc891918],
    ['CRC-32/MPEG-2', model(32, 0x04c11db7, 0xffffffff, false, false, 0), 0x0376e6e7],
    ['CRC-32/ISCSI', model(32, 0x1edc6f41, 0xffffffff, true, true, 0xffffffff), 0xe3069283],
  ])('%s', (_, parameters, value) => {
    expect(checksumOf(parameters, check)).toBe(value)
  })
  // Source: the package `crc`, over any bytes.
  it('is what a reference library says', () => {
    const kermit = model(16, 0x1021, 0, true, true, 0)
    const ccitt = model(16, 0x1021, 0xffff, false, false, 0)
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (data) => {
        expect(checksumOf(kermit, data)).toBe(crc.crc16kermit(Buffer.from(data)))
        expect(checksumOf(ccitt, data)).toBe(crc.crc16ccitt(Buffer.from(data)))
        expect(checksumOf('crc32', data)).toBe(crc.crc32(Buffer.from(data)))
      }),
    )
  })
  // Source: Adler-32 of "abc" by zlib (RFC 1950); the others worked by hand.
  it.each<[Checksum, string, number]>([
    ['adler32', '616263', 0x024d0127],
    ['fletcher16', '6162636465', 0xc8f0],
    ['sum8', 'ff02', 0x01],
    ['sum16', 'ffff', 0x01fe],
    ['minus-sum8', '0102', 0xfd],
    ['minus-sum8', '00', 0],
    ['xor8', 'f00f55', 0xaa],
    ['sum32', 'ffffff', 0x2fd],
  ])('%s of %s', (name, data, value) => {
    expect(checksumOf(name, bytes(data))).toBe(value)
  })
})

describe('stuffing', () => {
  // Source: RFC 1055, the escapes of END and ESC; RFC 1662, 4.2: 7E is 7D 5E, 7D is 7D 5D.
  it('is RFC 1055’s and RFC 1662’s', () => {
    expect(stuff(bytes('01c0db02'), 'slip')).toEqual(bytes('c001dbdcdbdd02c0'))
    expect(stuff(bytes('017e7d02'), 'hdlc')).toEqual(bytes('7e017d5e7d5d027e'))
    // RFC 1662 lets a sender stuff control octets too: 7D 31 is XON.
    expect(unstuff(bytes('7d31'), 'hdlc')).toEqual(bytes('11'))
    expect(unstuff(bytes('db00'), 'slip')).toBeNull()
    expect(unstuff(bytes('01db'), 'slip')).toBeNull()
  })
  it('comes back the same, and no delimiter stands within', () => {
    fc.assert(
      fc.property(
        fc.uint8Array({ maxLength: 200 }),
        fc.constantFrom('slip' as const, 'hdlc' as const),
        (data, how) => {
          const out = stuff(data, how)
          expect(out.subarray(1, -1).includes(out[0]!)).toBe(false)
          expect(unstuff(out.subarray(1, -1), how)).toEqual(data)
        },
      ),
    )
  })
})

describe('a frame', () => {
  const form = v.parse(LinkScript.entries.frame.wrapped, {
    layout: 'A5 {length:u16le} {sequence:u8} {payload} {checksum:u16be}',
    escape: 'none',
    checksum: { width: 16, poly: '0x1021', init: '0xFFFF', refin: false, refout: false, xorout: '0x0000' },
    checksumOver: 'after-first-byte',
    maxPayload: 32,
  })
  const dialect = frameDialect(form)
  it('has its parts where its layout says, and its checksum over what it says', () => {
    const out = encodeFrame(dialect, bytes('0102'), 0x1ff)
    // A5, two bytes of length 2, sequence cut to its width; CRC over 02 00 FF 01 02.
    expect(out.subarray(0, 6)).toEqual(bytes('a50200ff0102'))
    expect(out.at(-2)! * 256 + out.at(-1)!).toBe(crc.crc16ccitt(Buffer.from(bytes('0200ff0102'))))
  })
  it.each([
    ['payload', 2],
    ['payload-and-checksum', 4],
    ['whole', 8],
  ] as const)('counts its %s', (lengthCounts, value) => {
    const own = frameDialect({ ...form, lengthCounts })
    const out = encodeFrame(own, bytes('0102'), 0)
    expect(out[1]).toBe(value)
    expect(frameEnd(own, out)).toBe(8)
    expect(decodeFrame(own, out)).toMatchObject({ payload: bytes('0102') })
  })
  it('is refused with any one bit of it changed', () => {
    const out = encodeFrame(dialect, bytes('0a0b0c'), 7)
    for (let bit = 0; bit < out.length * 8; bit++) {
      const other = out.slice()
      other[bit >> 3]! ^= 1 << (bit & 7)
      expect(decodeFrame(dialect, other)).toHaveProperty('fault')
    }
  })
  it('has no more payload than its most', () => {
    expect(() => encodeFrame(dialect, new Uint8Array(33), 0)).toThrow('33 bytes, and 32 fit')
    expect(encodeFrame(dialect, new Uint8Array(32), 0)).toHaveLength(4 + 32 + 2)
  })
})

describe('a step that a person does', () => {
  const operations = {
    enter: {
      steps: [
        { do: 'ask', says: 'Press the side key.', caution: 'The drum may turn.' },
        { do: 'send', text: 'x' },
        awaits([{ text: 'ready' }], 100),
      ],
    },
  }
  const answers = async (unit: Port) => {
    await unit.read(1, Infinity)
    await unit.write(asciiBytes('ready'))
  }
  it('is asked for and waited for, and what the person takes counts for no deadline', async () => {
    const asked: object[] = []
    const person: Person = {
      async ask(act) {
        asked.push(act)
        await made.clock.sleep(600_000)
      },
      type: async () => '',
      tell: silent,
    }
    const made = await bench(operations, answers, {}, person)
    await made.driver.run('enter')
    expect(asked).toEqual([{ says: 'Press the side key.', caution: 'The drum may turn.' }])
    expect(made.events.map(({ says }) => says)).toContain('asked: Press the side key.')
  })
  it('sends nothing before it is done, and is a refusal in words where nobody is asked', async () => {
    let heard = 0
    const { driver, end } = await bench(operations, async (unit) => {
      for (;;) heard += (await unit.read(1, Infinity))?.length ?? 0
    })
    await expect(driver.run('enter')).rejects.toMatchObject({
      facts: { kind: 'nobody-to-ask', place: { at: 'enter.0' }, expected: 'Press the side key.' },
    })
    expect(heard).toBe(0)
    end()
  })
  it.each([
    ['text', 'open {word}\r', 'cliff 7', 'open cliff 7\r'],
    ['hex', '{word:bytes}\r', '0a1B', '\x0a\x1b\r'],
  ] as const)(
    'types %s that goes to the unit, and no deadline runs meanwhile',
    async (as, text, typed, sent) => {
      let heard = ''
      const asked: object[] = []
      const unlock = {
        steps: [
          { do: 'ask', says: 'The password.', into: 'word', as },
          { do: 'send', text },
          awaits([{ text: 'yes' }], 100),
        ],
      }
      const person: Person = {
        ask: silent,
        tell: silent,
        async type(what) {
          asked.push(what)
          await made.clock.sleep(600_000)
          return typed
        },
      }
      const made = await bench(
        { unlock },
        async (unit) => {
          for (;;) {
            const got = await unit.read(64, Infinity)
            heard += String.fromCharCode(...got!)
            if (heard.endsWith('\r')) await unit.write(asciiBytes('yes'))
          }
        },
        {},
        person,
      )
      await made.driver.run('unlock')
      expect(asked).toEqual([{ says: 'The password.', as }])
      expect(heard).toBe(sent)
      made.end()
    },
  )
  it('types it once, and again after the unit refused it', async () => {
    const typed = ['wrong', 'right']
    let asked = 0
    const person: Person = { ask: silent, tell: silent, type: async () => typed[asked++]! }
    const unlock = {
      steps: [
        { do: 'ask', says: 'The password.', into: 'word' },
        { do: 'send', text: '{word}\r' },
        awaits([{ line: 'yes' }, { line: 'no {reason}', means: 'refused' }]),
      ],
    }
    const { driver, end } = await bench(
      { unlock },
      async (unit) => {
        for (;;) {
          const got = asciiText((await unit.read(64, Infinity))!)
          await unit.write(asciiBytes(got === 'right\r' ? 'yes\r\n' : 'no entry\r\n'))
        }
      },
      {},
      person,
    )
    await expect(driver.run('unlock')).rejects.toMatchObject({ facts: { kind: 'unit-refused' } })
    await driver.run('unlock')
    await driver.run('unlock')
    expect(asked).toBe(2)
    end()
  })
  it('types what then stands in no sentence of a failure', async () => {
    const unlock = {
      steps: [
        { do: 'ask', says: 'The password.', into: 'word' },
        { do: 'send', text: 'open {word}\r' },
        awaits([{ text: 'yes' }, { line: 'no {reason}', means: 'refused' }], 100),
      ],
    }
    const person: Person = { ask: silent, tell: silent, type: async () => 'cliff 7' }
    const failing = async (answer: string) => {
      const made = await bench(
        { unlock },
        async (unit) => {
          await unit.read(64, Infinity)
          await unit.write(asciiBytes(answer))
        },
        {},
        person,
      )
      return made.driver.run('unlock').catch((error: unknown) => String(error))
    }
    for (const answer of ['', 'no wrong\r\n']) {
      const says = await failing(answer)
      expect(says).toContain('asked what was typed')
      expect(says).not.toContain('cliff')
    }
    // A console echoes what it hears: that is left out too.
    expect(await failing('open cliff 7\r\n')).not.toContain('cliff')
  })
  it('beside what goes on by itself is said once', async () => {
    const told: string[] = []
    const person: Person = { ask: silent, type: async () => '', tell: async (says) => void told.push(says) }
    const { driver } = await bench(
      {
        attach: {
          steps: [
            {
              do: 'repeat',
              says: 'Switch the unit on.',
              steps: [{ do: 'send', bytes: '55' }],
              until: [{ bytes: '06' }],
              everyMs: 30,
              times: 100,
            },
          ],
        },
      },
      async (unit) => {
        for (let at = 0; at < 5; at++) await unit.read(1, Infinity)
        await unit.write(Uint8Array.of(6))
      },
      {},
      person,
    )
    await driver.run('attach')
    expect(told).toEqual(['Switch the unit on.'])
  })
  it('stands in no loop: a person would be asked for every piece', () => {
    const ask = { do: 'ask', says: 'Press it.' }
    const faults = (step: object) => {
      const script = v.parse(LinkScript, {
        speaks: 'script',
        operations: { erase: { steps: [step] } },
      })
      return linkScriptFaults(script, { bytes: 4096, sectorBytes: 1024, pageBytes: 256 }).map(({ at }) => at)
    }
    const send = { do: 'send', text: 'e' }
    expect(faults({ do: 'each', of: 'sector', steps: [send, ask] })).toEqual([
      'operations.erase.steps.0.steps.1',
    ])
    expect(
      faults({ do: 'repeat', steps: [ask, send], until: [{ text: 'k' }], everyMs: 10, times: 2 }),
    ).toEqual(['operations.erase.steps.0.steps.0'])
    expect(faults(ask)).toEqual([])
  })
})

describe('a wait', () => {
  it('ends with its time though the unit never stops talking', async () => {
    const { driver, clock } = await bench(
      {
        attach: {
          steps: [
            { do: 'send', text: 'x' },
            awaits([{ text: 'ready' }, { text: 'busy', means: 'busy' }], 500),
          ],
        },
      },
      async (unit) => {
        for (;;) await unit.write(asciiBytes('busy '))
      },
    )
    const before = clock.now()
    await expect(driver.run('attach')).rejects.toMatchObject({ facts: { kind: 'no-answer' } })
    expect(clock.now() - before).toBeGreaterThanOrEqual(500)
    expect(clock.now() - before).toBeLessThan(520)
  })
  it('is borne through busy, told through progress, and ends at the word that goes on', async () => {
    const { driver, clock, events } = await bench(
      {
        erase: {
          steps: [
            { do: 'send', text: 'e' },
            awaits(
              [{ text: 'ok' }, { text: '..', means: 'busy' }, { text: '{done}/{total} ', means: 'progress' }],
              2000,
            ),
          ],
        },
      },
      async (unit) => {
        await unit.read(1, Infinity)
        for (let at = 1; at <= 3; at++) {
          await clock.sleep(300)
          await unit.write(asciiBytes(`.. ${at}/3 `))
        }
        await unit.write(asciiBytes('ok'))
      },
    )
    const told: number[] = []
    await driver.run('erase', {
      range: { address: 0, length: 10 },
      report: ({ done }) => void told.push(done),
    })
    expect(told).toEqual([1, 2, 3])
    expect(events.map(({ at }) => at)).toContain('erase.1')
  })
  // A unit that tells progress and then stops is not waited for to the end of the whole time.
  it.each([
    [299, 'ends'],
    [301, 'no-answer'],
  ])('is borne through a silence as long as it may be: %s ms, %s', async (pauseMs, came) => {
    const { driver, clock } = await bench(
      {
        erase: {
          steps: [
            { do: 'send', text: 'e' },
            {
              ...awaits([{ line: 'ok' }, { line: 'at {done}/{total}', means: 'progress' }], 60_000),
              silenceMs: 300,
            },
          ],
        },
      },
      async (unit) => {
        await unit.read(1, Infinity)
        for (let at = 1; at <= 3; at++) {
          await clock.sleep(pauseMs)
          await unit.write(Uint8Array.of(...asciiBytes(`at ${at}/3\r\n`)))
        }
        await unit.write(asciiBytes('ok\r\n'))
      },
    )
    const before = clock.now()
    const run = driver.run('erase', { range: { address: 0, length: 10 } })
    if (came === 'ends') await run
    else {
      await expect(run).rejects.toMatchObject({ facts: { kind: came } })
      expect(clock.now() - before).toBeLessThan(320)
    }
  })
  it('tells a refusal for good from one for now: the piece is tried again for the one alone', async () => {
    const answers = ['wait', 'ok', 'no: worn out\n']
    let asked = 0
    const { driver } = await bench(
      {
        erase: {
          steps: [
            {
              do: 'each',
              of: 'sector',
              steps: [
                { do: 'send', text: 'e' },
                awaits([
                  { text: 'ok' },
                  { text: 'wait', means: 'again' },
                  { text: 'no: {reason}\n', means: 'refused' },
                ]),
              ],
            },
          ],
        },
      },
      async (unit) => {
        for (;;) {
          await unit.read(1, Infinity)
          await unit.write(asciiBytes(answers[asked++] ?? 'ok'))
        }
      },
    )
    await expect(driver.run('erase', { range: { address: 0, length: 0x3000 } })).rejects.toMatchObject({
      facts: { kind: 'unit-refused', found: 'worn out', place: { at: 'erase.0.1' } },
    })
    expect(asked).toBe(3)
  })
  it('what is refused for now is given up after its tries', async () => {
    let asked = 0
    const each = {
      do: 'each',
      of: 'sector',
      steps: [{ do: 'send', text: 'e' }, awaits([{ text: 'ok' }, { text: 'w', means: 'again' }])],
    }
    const { driver } = await bench({ erase: { steps: [each] } }, async (unit) => {
      for (;;) {
        await unit.read(1, Infinity)
        asked++
        await unit.write(asciiBytes('w'))
      }
    })
    await expect(driver.run('erase', { range: { address: 0, length: 1 } })).rejects.toMatchObject({
      facts: { kind: 'unit-refused-for-now' },
    })
    expect(asked).toBe(3)
  })
  it('a piece whose answer is lost is not sent twice unless the profile says it may be', async () => {
    for (const [writeTries, times] of [
      [undefined, 1],
      [2, 2],
    ] as const) {
      let asked = 0
      const each = {
        do: 'each',
        of: 'chunk',
        bytes: 16,
        steps: [{ do: 'send', bytes: '{data}' }, awaits([{ text: 'k' }], 50)],
      }
      const { driver } = await bench(
        { write: { steps: [each] } },
        async (unit) => {
          for (;;) {
            const got = await unit.read(64, Infinity)
            asked += got?.length ?? 0
          }
        },
        writeTries === undefined ? {} : { writeTries },
      )
      const image = new Uint8Array(16)
      await expect(driver.run('write', { range: { address: 0, length: 16 }, image })).rejects.toMatchObject({
        facts: { kind: 'no-answer' },
      })
      expect(asked).toBe(16 * times)
    }
  })
})

describe('what a script lacks is told as lacking', () => {
  it('a link that can neither check nor read is proved by its version alone', async () => {
    const { loader } = await bench({ write: { steps: [{ do: 'transfer', by: 'plain' }] } }, silent)
    expect(loader.can).toEqual({ read: false, erase: false, verify: 'version-only', resume: false })
    expect(await loader.verify(0, new Uint8Array(4))).toMatchObject({ outcome: 'version-only' })
  })
  it('a sum that the unit does not give is no proof', async () => {
    const { loader } = await bench(
      {
        check: {
          steps: [
            { do: 'send', text: 'c{length}' },
            awaits([{ text: 'sum {sum}\n' }]),
            { do: 'compare', slot: 'sum', checksum: 'sum8' },
          ],
        },
      },
      async (unit) => {
        for (;;) {
          await unit.read(64, Infinity)
          await unit.write(asciiBytes('sum 07\r\n'))
        }
      },
    )
    // 8-bit sums of both halves are 7 and 7.
    const image = Uint8Array.of(7, 0, 0, 0, 7, 0, 0, 0)
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'equal-checksum', by: '8-bit sum' })
    image[5] = 1
    expect(await loader.verify(0, image)).toMatchObject({ outcome: 'different' })
    expect(await loader.verify(0, new Uint8Array(0))).toMatchObject({ outcome: 'not-comparable' })
  })
  it('each half is asked about where the unit is told the range: the whole may be a residue', async () => {
    const asked: string[] = []
    const { loader } = await bench(
      {
        check: {
          steps: [
            { do: 'send', text: '{address} {length}\r' },
            awaits([{ text: '{sum:hex2}' }]),
            { do: 'compare', slot: 'sum', checksum: 'xor8' },
          ],
        },
      },
      async (unit) => {
        let text = ''
        for (;;) {
          text += String.fromCharCode(...((await unit.read(64, Infinity)) ?? []))
          if (!text.endsWith('\r')) continue
          asked.push(text.trim())
          text = ''
          await unit.write(asciiBytes('00'))
        }
      },
    )
    await loader.verify(0x100, new Uint8Array(64))
    expect(asked).toEqual(['256 32', '288 32'])
  })
})

describe('what a script costs', () => {
  const at = (baudRate: number) => ({ ...settings, baudRate })
  const form = (steps: object[], count: number, own = at(115_200)) => {
    const script = v.parse(LinkScript, { speaks: 'script', operations: { write: { steps } } })
    return { operation: script.operations.write!, form: { script, settings: own, ...memory, bytes: count } }
  }
  it('a block transfer costs what it costs without a script', () => {
    const { operation, form: own } = form([{ do: 'transfer', by: 'xmodem-1k' }], 40_000)
    expect(scriptLikelyMs(operation, own)).toBe(xmodemWireMs(40_000, 1024, settings))
  })
  it('after its last byte is what burns a buffer, where a second command does that', () => {
    const done = { do: 'expect', patterns: [{ text: 'ok\n' }], withinMs: 1000 }
    const tailOf = (steps: object[]) => {
      const { operation, form: own } = form(steps, 40_000)
      return scriptTailMs(operation, own, 500)
    }
    const buffer = { do: 'transfer', by: 'ymodem', fileName: 'a' }
    // "burn" and "ok" with their line ends are eight characters of ten bits.
    expect(tailOf([buffer, { do: 'send', text: 'burn\r' }, done])).toBeCloseTo(
      500 + (8 * 10_000) / 115_200,
      6,
    )
    // Nothing is asked for after it: the unit programs while it takes the bytes.
    expect(tailOf([buffer, done])).toBeCloseTo((3 * 10_000) / 115_200, 6)
    expect(tailOf([buffer])).toBe(0)
    // Each piece is burnt before the next one comes.
    const pieces = [{ do: 'send', text: 'put {data:hex}\r' }, done, { do: 'send', text: 'burn\r' }, done]
    expect(tailOf([{ do: 'each', of: 'chunk', bytes: 64, steps: pieces }])).toBe(0)
    expect(
      tailOf([{ do: 'send', text: 'put {data:hex}\r' }, { do: 'send', text: 'burn\r' }, done]),
    ).toBeGreaterThan(500)
    expect(scriptTailMs(undefined, form([buffer], 1).form, 500)).toBe(0)
  })
  it('is what its characters take, counted by hand', () => {
    const { operation, form: own } = form(
      [
        {
          do: 'each',
          of: 'chunk',
          bytes: 64,
          steps: [{ do: 'send', bytes: '57 {address:u16be} {data}' }, awaits([{ bytes: '06' }])],
        },
      ],
      640,
      at(9600),
    )
    // Ten pieces of 3 + 64 bytes and one of answer, ten bits each.
    expect(scriptLikelyMs(operation, own)).toBeCloseTo((10 * 68 * 10 * 1000) / 9600, 6)
  })
  it('within one part in a hundred of what a unit that answers at once is written in', async () => {
    const steps = [{ do: 'transfer', by: 'xmodem-1k' }]
    const { driver, clock, script } = await bench({ write: { steps } }, async (unit) => {
      await receiveXmodem(unit, { onBlock: () => {} })
    })
    const image = new Uint8Array(60_000)
    const before = clock.now()
    await driver.run('write', { range: { address: 0, length: image.length }, image })
    const likely = scriptLikelyMs(script.operations.write!, {
      script,
      settings,
      ...memory,
      bytes: image.length,
    })
    expect((clock.now() - before) / likely).toBeLessThan(1.01)
    expect((clock.now() - before) / likely).toBeGreaterThan(0.99)
  })
})

describe('a plan over a scripted link', () => {
  const linkOf = (operations: object) => {
    const drive = v.parse(LinkScript, { speaks: 'script', operations })
    const line = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
    return {
      id: 'x',
      name: 'x',
      kind: 'serial',
      protocol: 'script',
      bytesPerSecond: 1,
      line,
      drive,
    } as unknown as DrivenLink
  }
  const write = { steps: [{ do: 'transfer', by: 'plain' }] }
  const read = {
    steps: [
      {
        do: 'each',
        of: 'chunk',
        bytes: 64,
        steps: [{ do: 'send', bytes: '52' }, awaits([{ bytes: '{data:hex} 0A' }])],
      },
    ],
  }
  const checked = {
    steps: [
      { do: 'send', text: 'c' },
      awaits([{ text: '{s:hex2}' }]),
      { do: 'compare', slot: 's', checksum: 'sum8' },
    ],
  }
  it('says what the link can, before it is opened', () => {
    expect(linkVerifies(linkOf({ write }))).toBe('version-only')
    expect(linkVerifies(linkOf({ write, read }))).toBe('read-back')
    expect(linkVerifies(linkOf({ write, read, check: checked }))).toBe('checksum')
    expect(linkRehearses(linkOf({ write }))).toBe(false)
    expect(linkRehearses(linkOf({ write, dryRun: write }))).toBe(true)
  })
  it('reads in the time of its own reading, not of its write', () => {
    // Plain bytes: 640 characters of ten bits out; reading asks ten times with one more character each at the least.
    expect(linkReadWireMs(linkOf({ write, read }), 640)).toBeGreaterThan(((640 + 10) * 10 * 1000) / 9600)
    expect(linkReadWireMs(linkOf({ write }), 640)).toBe(0)
  })
})

describe('pieces that were sent again', () => {
  it('are counted to the end of a write', async () => {
    let asked = 0
    const each = {
      do: 'each',
      of: 'chunk',
      bytes: 4,
      steps: [{ do: 'send', bytes: '{data}' }, awaits([{ text: 'k' }, { text: 'w', means: 'again' }])],
    }
    const { loader } = await bench({ write: { steps: [each] } }, async (unit) => {
      for (;;) {
        await unit.read(64, Infinity)
        await unit.write(asciiBytes(asked++ === 0 ? 'w' : 'k'))
      }
    })
    const told: number[] = []
    await loader.write(0, new Uint8Array(8), ({ retries }) => void told.push(retries), { raised: false })
    expect(told.at(-1)).toBe(1)
  })
})

/** Any script that its schema takes: what a person could write, and what somebody who means harm would. */
const anyText = fc.string({
  unit: fc.constantFrom('a', 'k', '\r', '{address:hex4}', '{length}', '{data}', '{x}', '\u00ff'),
  maxLength: 6,
})
const anyPattern = fc.record({
  text: fc.string({
    unit: fc.constantFrom('a', 'k', '\n', '{x}', '{y:dec}', '{data:bytes}', '\u0000'),
    minLength: 1,
    maxLength: 5,
  }),
  means: fc.constantFrom('go', 'refused', 'again', 'busy', 'progress'),
})
const anyPatterns = fc.array(anyPattern, { minLength: 1, maxLength: 3 })
const anyMs = fc.integer({ min: 1, max: 400 })
const { step: anyStep } = fc.letrec((tie) => ({
  step: fc.oneof(
    { depthSize: 'small', maxDepth: 2 },
    fc.record({ do: fc.constant('send'), text: anyText }),
    fc.record({ do: fc.constant('expect'), patterns: anyPatterns, withinMs: anyMs }),
    fc.record({ do: fc.constant('wait'), ms: anyMs }),
    fc.record({ do: fc.constant('page'), until: anyPatterns, withinMs: anyMs }),
    fc.record({ do: fc.constant('lines'), dtr: fc.boolean(), forMs: anyMs }),
    fc.record({
      do: fc.constant('compute'),
      into: fc.constant('x'),
      checksum: fc.constantFrom('sum8', 'crc32'),
      over: fc.constant('data'),
    }),
    fc.record({ do: fc.constant('dump'), line: fc.constant('{row:bytes}|'), withinMs: anyMs }),
    fc.record({
      do: fc.constant('frame'),
      bytes: fc.constantFrom('01', '02 {data}'),
      answer: anyPatterns,
      withinMs: anyMs,
    }),
    fc.record({ do: fc.constant('transfer'), by: fc.constantFrom('plain', 'srec-lines'), withinMs: anyMs }),
    fc.record({
      do: fc.constant('repeat'),
      steps: fc.array(tie('step'), { minLength: 1, maxLength: 2 }),
      until: anyPatterns,
      everyMs: anyMs,
      times: fc.integer({ min: 1, max: 4 }),
    }),
    fc.record({
      do: fc.constant('each'),
      of: fc.constantFrom('chunk', 'page'),
      bytes: fc.constant(64),
      steps: fc.array(tie('step'), { minLength: 1, maxLength: 2 }),
    }),
  ),
}))
const frame = {
  layout: 'A5 {length:u8} {payload} {checksum:u8}',
  escape: 'none',
  checksum: 'sum8',
  maxPayload: 80,
  tries: 2,
}

describe('a script cannot harm', () => {
  // The longest single wait that the scripts above can have.
  const oneWaitMs = 400
  it(
    'whatever it says and whatever the unit answers, it ends in its time, and only in Problems',
    { timeout: 600_000 },
    async () => {
      await fc.assert(
        fc.asyncProperty(
          fc.array(anyStep, { minLength: 1, maxLength: 3 }),
          fc.constantFrom('read', 'write', 'erase', 'attach', 'check'),
          fc.uint8Array({ maxLength: 40 }),
          fc.boolean(),
          async (steps, name, noise, echoes) => {
            const parsed = v.safeParse(LinkScript, {
              speaks: 'script',
              frame,
              operations: { [name]: { steps } },
            })
            if (!parsed.success) return
            const script = parsed.output
            // What the checker refuses is never run.
            if (linkScriptFaults(script, { bytes: 200, sectorBytes: 128, pageBytes: 64 }).length > 0) return
            const { driver, clock, end } = await bench(
              script.operations as object,
              async (unit) => {
                for (;;) {
                  const got = await unit.read(256, 50)
                  if (noise.length > 0) await unit.write(noise)
                  if (got && echoes) await unit.write(got)
                }
              },
              { frame },
            ).catch(() => ({ driver: null, clock: null, end: null }))
            if (!driver || !clock || !end) return
            const before = clock.now()
            const into = name === 'read' ? new Uint8Array(200) : undefined
            const image = name === 'write' || name === 'check' ? new Uint8Array(200) : undefined
            await driver
              .run(name as 'read', {
                range: { address: 0, length: 200 },
                ...(into ? { into } : {}),
                ...(image ? { image } : {}),
              })
              .catch((error: unknown) => {
                if (!isProblem(error) && !(error instanceof RangeError)) throw error
              })
            end()
            const form = { script, settings, bytes: 200, sectorBytes: 0x1000, pageBytes: 256 }
            const longest = scriptLongestMs(script.operations[name as 'read']!, form)
            expect(clock.now() - before).toBeLessThanOrEqual(longest + oneWaitMs)
            if (into) expect(into).toHaveLength(200)
          },
        ),
        { numRuns: Number(process.env['BENCH_WAKE_SCRIPTS'] ?? 3000) },
      )
    },
  )
})
