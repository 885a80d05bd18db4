import { crc16xmodem, crc32 as referenceCrc32 } from 'crc'
import fc from 'fast-check'
import { createHash } from 'node:crypto'
import { describe, expect, it } from 'vitest'
import {
  asciiBytes,
  canonicalJson,
  clockText,
  crc16Xmodem,
  crc32,
  durationText,
  isProblem,
  Problem,
  scaledClock,
  sha256Hex,
  verdictAfter,
  verdictOf,
  virtualClock,
  type Finding,
  sizeText,
} from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const finding = (level: Finding['level'], rule = 'r'): Finding => ({
  rule,
  level,
  says: 's',
  because: 'b',
})

describe('checksums', () => {
  // Source: CRC RevEng, catalogue of parametrised CRC algorithms, "check" of CRC-16/XMODEM and CRC-32/ISO-HDLC.
  const check = asciiBytes('123456789')
  it('give the catalogue’s check values', () => {
    expect(crc16Xmodem(check)).toBe(0x31c3)
    expect(crc32(check)).toBe(0xcbf43926)
  })
  // Source: the catalogue's residue law; a message followed by its CRC, high byte first, leaves 0.
  it('leave no residue behind a message and its CRC-16/XMODEM', () => {
    expect(crc16Xmodem(Uint8Array.of(...check, 0x31, 0xc3))).toBe(0)
  })
  // Source: the npm package `crc`, an independent implementation.
  it('agree with an independent implementation on any bytes, whole or in pieces', () => {
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), fc.nat(300), (bytes, cut) => {
        const [head, tail] = [bytes.subarray(0, cut), bytes.subarray(cut)]
        expect(crc16Xmodem(tail, crc16Xmodem(head))).toBe(crc16xmodem(Buffer.from(bytes)))
        expect(crc32(tail, crc32(head))).toBe(referenceCrc32(Buffer.from(bytes)))
      }),
    )
  })
})

describe('digest', () => {
  // Source: FIPS 180-4 example vectors, "abc", the two-block message and the empty message.
  it('gives the published SHA-256 vectors', () => {
    expect(sha256Hex('abc')).toBe('ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad')
    expect(sha256Hex('abcdbcdecdefdefgefghfghighijhijkijkljklmklmnlmnomnopnopq')).toBe(
      '248d6a61d20638b8e5c026930c3e6039a33ce45964ff2167f6ecedd419db06c1',
    )
    expect(sha256Hex('')).toBe('e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855')
  })
  // Source: Node's own crypto (OpenSSL).
  it('takes a text as UTF-8', () => {
    for (const text of ['µV', '½ ℧', '🛥 wake']) {
      expect(sha256Hex(text)).toBe(createHash('sha256').update(text, 'utf8').digest('hex'))
    }
  })
})

describe('canonical JSON', () => {
  // Source: RFC 8785, 3.2.3: members sorted, no white space.
  it('does not depend on the order in which members were set', () => {
    expect(canonicalJson({ b: [1, { d: null, c: 'x' }], a: 0.5 })).toBe(
      '{"a":0.5,"b":[1,{"c":"x","d":null}]}',
    )
    expect(canonicalJson({ a: undefined, b: 1 })).toBe(canonicalJson({ b: 1 }))
  })
})

describe('verdict', () => {
  // Source: docs/architecture.md, "One shape for every judgement".
  it('is the worst level, and unknown when nothing was judged', () => {
    expect(verdictOf([])).toBe('unknown')
    expect(verdictOf([finding('go'), finding('hold'), finding('note')])).toBe('hold')
  })
  it('lets a named person release a hold, never a stop', () => {
    const release = { rule: 'r', name: 'A. Lund', reason: 'spare unit' }
    expect(verdictAfter([finding('hold')], [release])).toBe('note')
    expect(verdictAfter([finding('hold'), finding('hold', 'other')], [release])).toBe('hold')
    expect(verdictAfter([finding('stop')], [release])).toBe('stop')
  })
})

describe('clocks', () => {
  it('virtual time jumps from sleeper to sleeper, in order of their due time', async () => {
    const clock = virtualClock(turn, 1000)
    const woken: [string, number][] = []
    const nap = async (name: string, ms: number) => {
      await clock.sleep(ms)
      woken.push([name, clock.now()])
    }
    await Promise.all([nap('c', 3_600_000), nap('a', 10), nap('b', 10), nap('now', 0)])
    expect(woken).toEqual([
      ['now', 1000],
      ['a', 1010],
      ['b', 1010],
      ['c', 3_601_000],
    ])
  })
  it('virtual time stands still while something real is waited for', async () => {
    const clock = virtualClock(turn)
    const timeOut = clock.sleep(5).then(() => 'time-out')
    const disk = clock.freezeWhile(new Promise((done) => setTimeout(() => done('disk'), 20)))
    expect(await Promise.race([timeOut, disk])).toBe('disk')
    expect(await timeOut).toBe('time-out')
    expect(clock.now()).toBe(5)
  })
  it('virtual time can be paced by the host, and a host that is late rings no time-out early', async () => {
    const waits: number[] = []
    const clock = virtualClock(turn, 0, async (ahead) => void waits.push(ahead))
    await clock.sleep(50)
    await clock.sleep(25)
    expect(waits).toEqual([50, 25])
    expect(clock.now()).toBe(75)
  })
  it('forgets a timer that was called off, without spending time on it', async () => {
    const clock = virtualClock(turn)
    let rang = false
    const callOff = clock.after(10, () => (rang = true))
    const nap = clock.sleep(20)
    callOff()
    await nap
    expect(rang).toBe(false)
    expect(clock.now()).toBe(20)
  })
  it('a scaled clock makes an hour of sixty seconds', async () => {
    let host = 0
    const slept: number[] = []
    const timer = {
      now: () => host,
      after: (ms: number, act: () => void) => {
        slept.push(ms)
        act()
        return () => {}
      },
    }
    const clock = scaledClock(timer, 60)
    await clock.sleep(3_600_000)
    expect(slept).toEqual([60_000])
    host = 60_000
    expect(clock.now()).toBe(3_600_000)
  })
  it('does not go back when the system’s clock is set back', () => {
    let host = 1000
    const clock = scaledClock({ now: () => host, after: () => () => {} }, 1)
    host = 2000
    expect(clock.now()).toBe(2000)
    host = 500
    expect(clock.now()).toBe(2000)
  })
})

describe('a problem', () => {
  it('names the thing, the place and the way out', () => {
    const problem = new Problem({
      kind: 'hex-checksum',
      place: { line: 12 },
      says: 'the checksum does not belong to the line',
      expected: '1E',
      found: '1F',
      remedy: 'Fetch it again.',
    }).about('main.hex')
    expect(problem.message).toBe(
      'main.hex, line 12: the checksum does not belong to the line (expected 1E, found 1F). Fetch it again.',
    )
    expect(isProblem(problem, 'hex-checksum')).toBe(true)
    expect(isProblem(new Error('x'))).toBe(false)
  })
})

describe('figures in words', () => {
  it('count a time left down to zero only at the end', () => {
    expect(clockText(107_200)).toBe('1:48')
    expect(clockText(1)).toBe('0:01')
    expect(clockText(0)).toBe('0:00')
    expect(clockText(3_725_000)).toBe('1:02:05')
  })
  it('say how long things take as people say it', () => {
    expect(durationText(400)).toBe('400 ms')
    expect(durationText(5_600)).toBe('5.6 s')
    expect(durationText(660_000)).toBe('11 min')
    expect(durationText(3_900_000)).toBe('1 h 5 min')
  })
})

// IEC 80000-13, clause 4: Ki is 1 024, Mi its square, Gi its cube.
it.each([
  [0, '0 bytes'],
  [1023, '1 023 bytes'],
  [1024, '1.0 KiB'],
  [10_907_648, '10 MiB'],
  [1_572_864, '1.5 MiB'],
  [81_580_326_912, '76 GiB'],
  [3 * 1024 ** 5, '3 072 TiB'],
])('a size of %d is read as %s', (count, says) => {
  expect(sizeText(count).replaceAll('\u00a0', ' ')).toBe(says)
})
