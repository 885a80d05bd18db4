import { LinkScript, linkScriptFaults } from '@bench-wake/core/family'
import fc from 'fast-check'
import * as v from 'valibot'
import { describe, expect, it } from 'vitest'
import { asciiBytes, equalBytes, type virtualClock } from '../../kernel'
import type { Port } from '../port'
import { decodeFrame, encodeFrame, frameDialect, frameEnd, scriptLikelyMs, scriptLongestMs } from '.'
import { awaits, bench, memory, settings } from './script-bench.test-support'

/*
 * Several pieces under way at once: a unit with a buffer of its own takes the next before it has answered the first. The
 * sliding window with go-back-N of the data link protocols (common practice; ISO/IEC 13239 for HDLC): never more than the
 * window unacknowledged, answers in order, and after a lost or refused one all goes on from there.
 */
const chunk = 64
const image = Uint8Array.from({ length: chunk * 12 + 10 }, (_, at) => (at * 7 + (at >> 8)) & 255)
const total = Math.ceil(image.length / chunk)

const write = (ahead?: number, patterns: object[] = [{ line: 'ok' }]) => ({
  steps: [
    {
      do: 'each',
      of: 'chunk',
      bytes: chunk,
      ...(ahead === undefined ? {} : { ahead }),
      steps: [
        { do: 'send', text: 'w {address:hex4} {data:hex}\r' },
        awaits(
          [...patterns, { line: 'wait', means: 'again' }, { line: 'no {reason}', means: 'refused' }],
          400,
        ),
      ],
    },
  ],
})

/** A unit that takes lines, thinks about each, and answers them in order. */
function lineUnit(
  form: {
    thinkMs?: number
    /** What it says to the n-th line that it hears, with the number of that line's piece; null: nothing. */
    answers?: (heard: number, piece: number) => string | null
    /** Lines that it has room for. */
    room?: number
  } = {},
) {
  const clock = { current: undefined as ReturnType<typeof virtualClock> | undefined }
  const held = new Uint8Array(image.length).fill(0xff)
  const pieces: number[] = []
  let most = 0
  let answered = 0
  const play = async (unit: Port) => {
    const queue: { at: number; piece: number }[] = []
    let text = ''
    const take = async (ms: number) => {
      const got = await unit.read(4096, ms)
      text += String.fromCharCode(...(got ?? []))
      for (let end = text.indexOf('\r'); end >= 0; end = text.indexOf('\r')) {
        const [, address, data] = text.slice(0, end).split(' ')
        text = text.slice(end + 1)
        const at = parseInt(address!, 16)
        pieces.push(at / chunk)
        queue.push({ at: pieces.length, piece: at / chunk })
        most = Math.max(most, queue.length)
        held.set(Buffer.from(data!, 'hex'), at)
      }
    }
    for (;;) {
      if (queue.length === 0) await take(Infinity)
      const until = clock.current!.now() + (form.thinkMs ?? 20)
      while (clock.current!.now() < until) await take(until - clock.current!.now())
      const one = queue.shift()
      if (!one) continue
      const says = form.answers ? form.answers(one.at, one.piece) : 'ok'
      answered++
      if (says !== null) await unit.write(asciiBytes(`${says}\r\n`))
    }
  }
  return {
    play,
    held,
    pieces,
    get most() {
      return most
    },
    get answered() {
      return answered
    },
    clock,
  }
}

async function at(
  unit: ReturnType<typeof lineUnit>,
  ahead?: number,
  more: object = { writeTries: 3 },
  patterns?: object[],
) {
  const made = await bench({ write: write(ahead, patterns) }, unit.play, more)
  unit.clock.current = made.clock
  const seen: number[] = []
  const began = made.clock.now()
  const run = (abandon = { raised: false }) =>
    made.loader.write(0, image, ({ done }) => void seen.push(done), abandon)
  return { ...made, run, seen, tookMs: () => made.clock.now() - began }
}

describe('pieces under way at once', () => {
  it('are as many as the profile says, and no more; each is counted when it is answered', async () => {
    const unit = lineUnit()
    const { run, seen, end } = await at(unit, 4)
    await run()
    expect(unit.most).toBe(4)
    expect(equalBytes(unit.held, image)).toBe(true)
    expect(unit.pieces).toEqual([...Array(total).keys()])
    expect(seen.slice(0, total)).toEqual(
      Array.from({ length: total }, (_, index) => Math.min(image.length, (index + 1) * chunk)),
    )
    end()
  })
  it('is one where the profile says nothing', async () => {
    const unit = lineUnit()
    const { run, end } = await at(unit)
    await run()
    expect(unit.most).toBe(1)
    end()
  })
  // The throughput of a window: the slower of line and unit sets the pace, or the round trip by the window (Tanenbaum,
  // Computer Networks, sliding window protocols; from memory).
  it.each([
    [undefined, 20],
    [2, 20],
    [4, 20],
    [4, 0.5],
    [8, 40],
  ])('with %s ahead and %s ms to think take what the time says', async (ahead, thinkMs) => {
    const unit = lineUnit({ thinkMs })
    const { run, tookMs, script, end } = await at(unit, ahead)
    await run()
    // 134 characters out, 4 back, at 115 200 baud and ten bits.
    const characterMs = 10_000 / settings.baudRate
    const [out, back] = [(8 + 2 * chunk) * characterMs, 4 * characterMs]
    const turnMs = out + thinkMs + back
    const due = ahead === undefined ? turnMs * total : turnMs + (total - 1) * Math.max(out, thinkMs)
    expect(tookMs() / due).toBeGreaterThan(0.93)
    expect(tookMs() / due).toBeLessThan(1.07)
    const likely = scriptLikelyMs(script.operations.write, {
      script: { ...script, thinkMs },
      settings,
      bytes: image.length,
      sectorBytes: 0x1000,
      pageBytes: 256,
    })
    // A unit that works on one piece at a time is slower than one that only answers late; no time is told that is longer.
    expect(likely).toBeLessThanOrEqual(due * 1.03)
    end()
  })
  it('go on from the one that was refused for now, alone until it has passed', async () => {
    let refusals = 2
    const unit = lineUnit({ answers: (_, piece) => (piece === 5 && refusals-- > 0 ? 'wait' : 'ok') })
    const { run, seen, end } = await at(unit, 4)
    await run()
    expect(equalBytes(unit.held, image)).toBe(true)
    // 5 to 8 were under way; 5 goes out alone twice more, then the window opens again.
    expect(unit.pieces.slice(5, 14)).toEqual([5, 6, 7, 8, 5, 5, 6, 7, 8])
    expect(seen).toEqual([...seen].sort((a, b) => a - b))
    end()
  })
  it('give up at the piece that is refused once more than it may be tried', async () => {
    const unit = lineUnit({ answers: (_, piece) => (piece === 5 ? 'wait' : 'ok') })
    const { run, seen, end } = await at(unit, 4)
    await expect(run()).rejects.toMatchObject({ facts: { kind: 'unit-refused-for-now' } })
    expect(unit.pieces.filter((piece) => piece === 5)).toHaveLength(3)
    expect(Math.max(...seen)).toBe(5 * chunk)
    end()
  })
  it('end at once where the unit refuses for good', async () => {
    const unit = lineUnit({ answers: (_, piece) => (piece === 3 ? 'no room' : 'ok') })
    const { run, seen, end } = await at(unit, 4)
    await expect(run()).rejects.toMatchObject({
      facts: { kind: 'unit-refused', found: 'room', place: { at: 'write.0.1' } },
    })
    expect(unit.pieces.filter((piece) => piece === 3)).toHaveLength(1)
    expect(Math.max(...seen)).toBe(3 * chunk)
    end()
  })
  it('go out again where an answer was lost, and its answers to the others are let go', async () => {
    const unit = lineUnit({ answers: (heard) => (heard === 6 ? null : 'ok') })
    const { run, end } = await at(unit, 4)
    await run()
    expect(equalBytes(unit.held, image)).toBe(true)
    expect(unit.pieces.at(-1)).toBe(total - 1)
    end()
  })
  it('are not tried again after silence where the profile allows no tries', async () => {
    const unit = lineUnit({ answers: (heard) => (heard === 6 ? null : 'ok') })
    const { run, end } = await at(unit, 4, {})
    // The answer to the piece after it was taken for its own: at the last there is one too few.
    await expect(run()).rejects.toMatchObject({ facts: { kind: 'no-answer' } })
    end()
  })
  it('are told apart by what an answer says: one that belongs to another is let go', async () => {
    const unit = lineUnit({
      answers: (heard, piece) => (heard === 6 ? null : `ok ${(piece * chunk).toString(16)}`),
    })
    const { run, seen, end } = await at(unit, 4, { writeTries: 3 }, [{ line: 'ok {address:hex}' }])
    await run()
    expect(equalBytes(unit.held, image)).toBe(true)
    // Its answer was the one that did not come: it went out twice, and nothing was counted that was not said.
    expect(unit.pieces.filter((piece) => piece === 5)).toHaveLength(2)
    expect(seen).toEqual([...seen].sort((a, b) => a - b))
    end()
  })
  it('wait for the answers before it where the unit refuses a later one at once', async () => {
    // A receiver that keeps nothing behind what it refused, and says so before what it holds is done.
    const heard: number[] = []
    const kept: number[] = []
    const made = await bench(
      { write: write(4, [{ line: 'ok {address:hex}' }, { line: 'full {address:hex}', means: 'again' }]) },
      async (unit) => {
        let text = ''
        let skipping: number | null = null
        let once = true
        const pending: number[] = []
        for (;;) {
          const got = await unit.read(4096, pending.length > 0 ? 30 : Infinity)
          text += String.fromCharCode(...(got ?? []))
          for (let end = text.indexOf('\r'); end >= 0; end = text.indexOf('\r')) {
            const piece = parseInt(text.split(' ')[1]!, 16) / chunk
            text = text.slice(end + 1)
            heard.push(piece)
            if (skipping !== null && piece !== skipping) continue
            skipping = null
            if (piece === 5 && once) {
              once = false
              skipping = 5
              await unit.write(asciiBytes(`full ${(5 * chunk).toString(16)}\r\n`))
            } else pending.push(piece)
          }
          if (got) continue
          const [done] = pending.splice(0, 1)
          kept.push(done!)
          await unit.write(asciiBytes(`ok ${(done! * chunk).toString(16)}\r\n`))
        }
      },
      { writeTries: 2 },
    )
    let retries = 0
    await made.loader.write(0, image, (progress) => void (retries = progress.retries), { raised: false })
    expect(kept).toEqual([...Array(total).keys()])
    expect(heard.filter((piece) => piece < 5)).toEqual([0, 1, 2, 3, 4])
    expect(retries).toBe(1)
    made.end()
  })
  it.each([0x4000, 5 * chunk + 1])(
    'that never went out are no later ones: a refusal of %s counts for the one that is due',
    async (named) => {
      let once = true
      const unit = lineUnit({
        answers: (_, piece) => {
          const at = (piece * chunk).toString(16)
          if (piece !== 4 || !once) return `ok ${at}`
          once = false
          return `full ${named.toString(16)}`
        },
      })
      const patterns = [{ line: 'ok {address:hex}' }, { line: 'full {address:hex}', means: 'again' }]
      const { run, seen, end } = await at(unit, 4, {}, patterns)
      await run()
      expect(equalBytes(unit.held, image)).toBe(true)
      expect(unit.pieces.filter((piece) => piece === 4)).toHaveLength(2)
      expect(seen).toEqual([...seen].sort((a, b) => a - b))
      end()
    },
  )
  it('stop going out when the write is abandoned, and what is under way is answered first', async () => {
    const unit = lineUnit()
    const { loader, end } = await at(unit, 4)
    const abandon = { raised: false }
    const cut = loader.write(
      0,
      image,
      ({ done }) => {
        if (done >= 3 * chunk) abandon.raised = true
      },
      abandon,
    )
    await expect(cut).rejects.toMatchObject({ facts: { kind: 'write-abandoned', found: expect.anything() } })
    // Six had gone out when the third was answered.
    expect(unit.pieces).toHaveLength(6)
    expect(unit.answered).toBe(6)
    end()
  })
  it('last no longer than the longest that the profile allows, whatever is lost', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.integer({ min: 0, max: 2 }), { minLength: 8, maxLength: 60 }),
        async (fates) => {
          const unit = lineUnit({
            answers: (heard) => (['ok', null, 'wait'] as const)[fates[heard % fates.length]!]!,
          })
          const { run, tookMs, script, end } = await at(unit, 4)
          await run().catch(() => {})
          const form = { script, settings, bytes: image.length, sectorBytes: 0x1000, pageBytes: 256 }
          expect(tookMs()).toBeLessThanOrEqual(scriptLongestMs(script.operations.write!, form) + 400)
          end()
        },
      ),
      { numRuns: 40 },
    )
  })
  it('are read as well: what comes belongs to the piece that was asked for first', async () => {
    const read = {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: chunk,
          ahead: 3,
          steps: [
            { do: 'send', text: 'r {address:hex4} {length:hex2}\r' },
            awaits([{ line: '{data:bytes}' }], 400),
          ],
        },
      ],
    }
    const made = await bench({ read }, async (unit) => {
      let text = ''
      for (;;) {
        text += String.fromCharCode(...(await unit.read(256, Infinity))!)
        for (let end = text.indexOf('\r'); end >= 0; end = text.indexOf('\r')) {
          const [, from, length] = text.slice(0, end).split(' ')
          text = text.slice(end + 1)
          const start = parseInt(from!, 16)
          const part = image.subarray(start, start + parseInt(length!, 16))
          await unit.write(asciiBytes(`${Buffer.from(part).toString('hex')}\r\n`))
        }
      }
    })
    const back = await made.loader.read!({ address: 0, length: image.length }, () => {})
    expect(equalBytes(back, image)).toBe(true)
    made.end()
  })
})

describe('frames under way at once', () => {
  const frame = {
    layout: 'A5 {length:u16le} {sequence:u8} {payload} {checksum:u16be}',
    escape: 'none',
    checksum: { width: 16, poly: '0x1021', init: '0xFFFF', refin: false, refout: false, xorout: '0x0000' },
    maxPayload: 80,
  }
  const operations = {
    write: {
      steps: [
        {
          do: 'each',
          of: 'chunk',
          bytes: chunk,
          ahead: 4,
          steps: [
            { do: 'frame', bytes: '57 {address:u16be} {data}', answer: [{ bytes: '06' }], withinMs: 300 },
          ],
        },
      ],
    },
  }
  const dialect = frameDialect(v.parse(LinkScript.entries.frame.wrapped, frame))
  it('are held to their own numbers: a late or doubled answer counts for no other', async () => {
    const held = new Uint8Array(image.length).fill(0xff)
    const numbers: number[] = []
    const made = await bench(
      operations,
      async (unit) => {
        let heard = new Uint8Array(0)
        for (;;) {
          heard = Uint8Array.from([...heard, ...(await unit.read(4096, Infinity))!])
          for (;;) {
            const end = frameEnd(dialect, heard)
            if (end === null || end < 0 || heard.length < end) break
            const read = decodeFrame(dialect, heard.subarray(0, end))
            heard = heard.slice(end)
            if ('fault' in read) continue
            numbers.push(read.sequence!)
            held.set(read.payload.subarray(3), read.payload[1]! * 256 + read.payload[2]!)
            const answer = encodeFrame(dialect, Uint8Array.of(6), read.sequence!)
            // The third frame is answered by none, the seventh twice.
            if (numbers.length !== 3) await unit.write(answer)
            if (numbers.length === 7) await unit.write(answer)
          }
        }
      },
      { frame },
    )
    await made.loader.write(0, image, () => {}, { raised: false })
    expect(equalBytes(held, image)).toBe(true)
    expect(numbers.filter((number) => number === 2)).toHaveLength(2)
    expect(Math.max(...numbers)).toBe(total - 1)
    made.end()
  })
})

describe('a script with pieces under way is refused', () => {
  const check = {
    steps: [
      { do: 'send', text: 'c {address} {length}\r' },
      awaits([{ line: '{sum:hex8}' }]),
      { do: 'compare', slot: 'sum', checksum: 'crc32' },
    ],
  }
  const faults = (each: object, more: object = {}, checked = true) =>
    linkScriptFaults(
      v.parse(LinkScript, {
        speaks: 'script',
        operations: {
          write: { steps: [{ do: 'each', of: 'chunk', bytes: 64, ahead: 4, ...each }] },
          ...(checked ? { check } : {}),
        },
        ...more,
      }),
      memory,
    ).map(({ at: place, says }) => `${place}: ${says}`)
  const sends = (text: string, more: object = {}) => ({ do: 'send', text, ...more })
  const ok = awaits([{ line: 'ok' }])
  it.each(['address', 'offset', 'index', 'number'])('not where a piece says its {%s}', (slot) => {
    expect(faults({ steps: [sends(`{${slot}} {data:hex}\r`), ok] })).toEqual([])
  })
  it.each<[string, object[], RegExp]>([
    [
      'where a piece does not say where it belongs',
      [sends('{data:hex}\r'), ok],
      /goes? out twice|go out twice/,
    ],
    ['where something is awaited in the middle', [sends('{address} {data:hex}\r'), ok, ok], /one `expect`/],
    ['where nothing is awaited', [ok, sends('{address} {data:hex}\r')], /one `expect`/],
    ['where each waits a while', [sends('{address} {data:hex}\r'), { do: 'wait', ms: 5 }, ok], /comes first/],
    [
      'where an echo is waited for',
      [sends('{address} {data:hex}\r', { echoWithinMs: 50 }), ok],
      /one piece at a time/,
    ],
  ])('%s', (_, steps, says) => {
    expect(faults({ steps }).join('\n')).toMatch(says)
  })
  it('where nothing is compared and an answer does not say which piece it belongs to', () => {
    const asks = sends('{address:hex4} {data:hex}\r')
    expect(faults({ steps: [asks, ok] }, {}, false).join()).toMatch(/taken for that of another piece/)
    expect(faults({ steps: [asks, awaits([{ line: 'ok {address:hex4}' }])] }, {}, false)).toEqual([])
    const frame = { layout: '{length:u8} {payload}', escape: 'none', maxPayload: 80 }
    const steps = [{ do: 'frame', bytes: '{address:u16be} {data}', answer: [{ bytes: '06' }], withinMs: 90 }]
    expect(faults({ steps }, { frame }, false).join()).toMatch(/taken for that of another piece/)
    const numbered = { ...frame, layout: '{length:u8} {sequence:u8} {payload}' }
    expect(faults({ steps }, { frame: numbered }, false)).toEqual([])
  })
  it('where a frame has its own echo', () => {
    const frame = { layout: '{length:u8} {payload}', escape: 'none', maxPayload: 80 }
    const steps = [{ do: 'frame', bytes: '{address:u16be} {data}', answer: [{ bytes: '06' }], withinMs: 90 }]
    expect(faults({ steps }, { frame: { ...frame, echo: true } }).join()).toMatch(/one piece at a time/)
    expect(faults({ steps }, { frame })).toEqual([])
  })
  it('with a window of one, or above sixty-four', () => {
    const each = (ahead: number) => ({
      speaks: 'script',
      operations: {
        write: {
          steps: [
            { do: 'each', of: 'chunk', bytes: 64, ahead, steps: [sends('{address} {data:hex}\r'), ok] },
          ],
        },
      },
    })
    expect([1, 2, 64, 65, 2.5].map((ahead) => v.safeParse(LinkScript, each(ahead)).success)).toEqual([
      false,
      true,
      true,
      false,
      false,
    ])
  })
})
