import { canBus, serveUds, type DisturbFrame, type UdsUnit } from '@bench-wake/standins'
import fc from 'fast-check'
import { describe, expect, it } from 'vitest'
import type { KeyStep } from '../../family'
import { asciiBytes, crc32, equalBytes, isProblem, virtualClock } from '../../kernel'
import { isoTp, type Transport } from '../isotp'
import { askUds, keyOfSeed, refusalText, service, udsClient, udsLoader, type UdsSettings } from '.'

const turn = () => new Promise<void>((done) => setImmediate(done))
const patterned = (length: number) => Uint8Array.from({ length }, (_, at) => (at * 31 + (at >> 8)) & 255)
const settings: UdsSettings = {
  securityLevel: 1,
  key: [
    { do: 'rotate', left: 7 },
    { do: 'xor', by: 0x5eac0a57 },
  ],
  eraseRoutine: 0xff00,
  checkRoutine: 0x0202,
}
const base = 0x10000

/** A controller with 64 KiB on a bus, and a tester beside it. */
function bench(form: { ready?: boolean; disturb?: DisturbFrame; eraseMs?: number } = {}) {
  const clock = virtualClock(turn)
  const bus = canBus(clock, () => 500_000, form.disturb)
  const memory = new Uint8Array(0x10000)
  const resets: number[] = []
  let faults = [{ code: 0x056200, status: 0x2f }]
  const unit: UdsUnit = {
    read: (identifier) => (identifier === 0xf189 ? asciiBytes('4.2.0') : null),
    write: () => false,
    key: settings.key!,
    routines: { erase: settings.eraseRoutine, check: settings.checkRoutine },
    memory: { covers: (address, length) => address >= base && address + length <= base + memory.length },
    async erase(address, length) {
      await clock.sleep(form.eraseMs ?? 260)
      memory.fill(0xff, address - base, address - base + length)
    },
    async program(address, data) {
      await clock.sleep(4)
      data.forEach((byte, at) => (memory[address - base + at]! &= byte))
    },
    readBack: (address, length) => memory.slice(address - base, address - base + length),
    faults: () => faults,
    clearFaults: () => void (faults = []),
    reset: () => void resets.push(clock.now()),
    maxTransferBytes: 0x402,
    ready: () => form.ready ?? true,
  }
  void serveUds(isoTp(bus.join('unit'), clock, { sendId: 0x7e8, receiveId: 0x7e0 }), clock, unit).catch(
    () => {},
  )
  const transport = isoTp(bus.join('tester'), clock, { sendId: 0x7e0, receiveId: 0x7e8 })
  return {
    clock,
    memory,
    resets,
    transport,
    client: udsClient(transport, clock),
    loader: udsLoader(transport, clock, settings, async () => []),
  }
}

/** A transport that answers from a list and keeps what it was asked. */
function scripted(answers: (string | null)[]): Transport & { asked: string[] } {
  const asked: string[] = []
  return {
    name: 'script',
    asked,
    async send(message) {
      asked.push(Buffer.from(message).toString('hex'))
    },
    async receive() {
      const next = answers.shift()
      return next ? new Uint8Array(Buffer.from(next, 'hex')) : null
    },
    async clear() {},
  }
}
const still = { now: () => 0, sleep: async () => {} }
const code = (kind: string, found?: string) => ({
  facts: { kind, ...(found === undefined ? {} : { found }) },
})

describe('services as they go over the wire', () => {
  // Source: ISO 14229-1, the message flow examples of each service's clause (numbers from memory of the standard).
  it.each([
    ['session 10 02', '1002', '5002003201f4', (c) => c.session(2)],
    ['hard reset 11 01', '1101', '5101', (c) => c.reset(1)],
    ['clear all fault codes 14 FF FF FF', '14ffffff', '54', (c) => c.clearFaults()],
    ['read F190', '22f190', '62f19041', (c) => c.readData(0xf190)],
    ['write F190', '2ef19041', '6ef190', (c) => c.writeData(0xf190, asciiBytes('A'))],
    ['silence all others 28 03 01', '280301', '6803', (c) => c.quiet(true)],
    ['fault setting off 85 02', '8502', 'c502', (c) => c.faultSetting(false)],
    ['tester present 3E 00', '3e00', '7e00', (c) => c.testerPresent()],
    ['start routine FF00', '3101ff00', '7101ff0000', (c) => c.startRoutine(0xff00)],
    ['request download', '340044000100000000400', '74200402', (c) => c.requestDownload(0x10000, 0x400)],
    ['transfer block 1', '3601aabb', '7601', (c) => c.transfer(1, Uint8Array.of(0xaa, 0xbb))],
    ['transfer exit 37', '37', '77', (c) => c.transferExit()],
  ] as [string, string, string, (client: ReturnType<typeof udsClient>) => Promise<unknown>][])(
    '%s',
    async (_, asked, answer, act) => {
      const transport = scripted([answer])
      await act(udsClient(transport, still))
      expect(transport.asked[0]).toBe(asked === '340044000100000000400' ? '3400440001000000000400' : asked)
    },
  )
  // Source: ISO 14229-1, clause 11.3.5: report by status mask answers mask, then three bytes of code and a status each.
  it('fault codes come with their status', async () => {
    const transport = scripted(['5902ff0562002f0a9b1708'])
    expect(await udsClient(transport, still).readFaults(0xff)).toEqual([
      { code: 0x056200, status: 0x2f },
      { code: 0x0a9b17, status: 0x08 },
    ])
  })
  // Source: ISO 14229-1, annex A.1.
  it.each([
    ['7f2233', /locked/],
    ['7f2231', /does not have this identifier/],
    ['7f2222', /conditions are not right/],
    ['7f2293', /supply is too low/],
    ['7f22e7', /0xE7/],
  ])('%s is told in words', async (answer, words) => {
    const error = await udsClient(scripted([answer]), still)
      .readData(0xf190)
      .catch((reason: unknown) => reason)
    expect(isProblem(error, 'uds-refused') && error.facts.found).toMatch(words)
  })
  // Source: ISO 14229-1, clause 8.7: 78 is no refusal; the answer comes later. Words about another service are passed over.
  it('"needs longer" is waited out, other answers passed over', async () => {
    const transport = scripted(['7f2278', '7f2278', '5003', '7f1011', '62f19042'])
    expect([...(await udsClient(transport, still).readData(0xf190))]).toEqual([0x42])
  })
  it('an answer about another identifier is refused', async () => {
    await expect(udsClient(scripted(['62f18741']), still).readData(0xf190)).rejects.toMatchObject(
      code('uds-answer'),
    )
  })
  it('silence is told after P2', async () => {
    const { clock, transport } = bench()
    await transport.send(Uint8Array.of(0x3e, 0x80))
    const began = clock.now()
    await expect(askUds(transport, clock, Uint8Array.of(0x3e, 0x80))).rejects.toMatchObject(
      code('uds-silent'),
    )
    expect(clock.now() - began).toBeLessThan(152)
  })
})

describe('access', () => {
  // Source: each worked by hand; the first two steps: 0x12345678 turned left by 7 is 0x1A2B3C09, and XOR 0x0F0F0F0F
  // that is 0x15243306.
  it.each<[string, number[], KeyStep[], number[]]>([
    [
      'rotate and xor',
      [0x12, 0x34, 0x56, 0x78],
      [
        { do: 'rotate', left: 7 },
        { do: 'xor', by: 0x0f0f0f0f },
      ],
      [0x15, 0x24, 0x33, 0x06],
    ],
    [
      'right is left below zero',
      [0x12, 0x34, 0x56, 0x78],
      [{ do: 'rotate', left: -8 }],
      [0x78, 0x12, 0x34, 0x56],
    ],
    ['no turn at all', [0x82, 0x34, 0x56, 0x78], [{ do: 'rotate', left: 0 }], [0x82, 0x34, 0x56, 0x78]],
    ['add runs over', [0xff, 0xff, 0xff, 0xff], [{ do: 'add', by: 2 }], [0, 0, 0, 1]],
    [
      'multiply keeps the low 32 bits',
      [0x80, 0, 0, 3],
      [{ do: 'multiply', by: 0xffffffff }],
      [0x7f, 0xff, 0xff, 0xfd],
    ],
    ['swap', [1, 2, 3, 4], [{ do: 'swap' }], [4, 3, 2, 1]],
    [
      'a seed of two bytes has sums of 16 bits',
      [0xff, 0xfe],
      [
        { do: 'add', by: 3 },
        { do: 'rotate', left: 4 },
      ],
      [0x00, 0x10],
    ],
    ['xor of three bytes leaves what is beyond', [1, 2, 3], [{ do: 'xor', by: 0xff000001 }], [1, 2, 2]],
    [
      'table',
      [0, 1, 255],
      [{ do: 'table', values: Array.from({ length: 256 }, (_, at) => 255 - at) }],
      [255, 254, 0],
    ],
  ])('answers a seed by the steps of its profile: %s', (_, seed, steps, key) => {
    expect([...keyOfSeed(Uint8Array.from(seed), steps)]).toEqual(key)
  })
  it('refuses a seed that no sum of 32 bits is for', () => {
    expect(() => keyOfSeed(new Uint8Array(5), [])).toThrow(/a seed of 5 bytes.*ask for the key/)
    expect(() => keyOfSeed(new Uint8Array(0), [])).toThrow(/a seed of 0 bytes/)
  })
  it('sends no key where the profile has no steps, and says who has them', async () => {
    const { transport, clock } = bench()
    const { key: _, ...without } = settings
    const loader = udsLoader(transport, clock, without, async () => [])
    await expect(loader.attach()).rejects.toMatchObject({ facts: { kind: 'uds-no-key' } })
  })
  // Source: ISO 14229-1, clause 10.4: security only outside the default session; three wrong keys lock for a time.
  it('is by session first, then key; three wrong keys lock it for ten seconds', async () => {
    const { client, clock } = bench()
    const right = (seed: Uint8Array) => keyOfSeed(seed, settings.key!)
    await expect(client.unlock(1, right)).rejects.toMatchObject(code('uds-refused', 'not in this session'))
    await client.session(3)
    for (const words of ['the key is wrong', 'the key is wrong', 'too many wrong keys'])
      await expect(client.unlock(1, () => new Uint8Array(4))).rejects.toMatchObject(
        code('uds-refused', words),
      )
    await expect(client.unlock(1, right)).rejects.toMatchObject(code('uds-refused', refusalText(0x37)))
    for (let rest = 0; rest < 11; rest++) {
      await clock.sleep(1000)
      await client.testerPresent()
    }
    await client.unlock(1, right)
  })
  // Source: ISO 14229-2: S3 is 5 000 ms; tester present keeps the session.
  it('falls shut after five seconds without a word', async () => {
    const { client, clock } = bench()
    await client.session(3)
    await clock.sleep(4900)
    await client.testerPresent()
    await clock.sleep(4900)
    await client.session(2)
    await clock.sleep(5100)
    await expect(client.requestDownload(base, 16)).rejects.toMatchObject(
      code('uds-refused', 'not in this session'),
    )
  })
  it('to programming is refused while conditions are not right', async () => {
    const { loader } = bench({ ready: false })
    await expect(loader.attach()).rejects.toMatchObject(code('uds-refused', refusalText(0x22)))
  })
  it('to memory outside what may be written is refused', async () => {
    const { loader } = bench()
    await expect(loader.write(0x8000, patterned(16), () => {}, { raised: false })).rejects.toMatchObject(
      code('uds-refused', refusalText(0x31)),
    )
  })
})

describe('the programming sequence', () => {
  it('erases, writes, proves by checksum, reads back and resets', async () => {
    const { loader, memory, resets, clock } = bench({ eraseMs: 12_000 })
    const image = patterned(20_001)
    await loader.attach()
    const began = clock.now()
    await loader.erase({ address: base, length: image.length }, () => {})
    // Longer than P2*: the unit asked for time until it was done.
    expect(clock.now() - began).toBeGreaterThan(12_000)
    const seen: number[] = []
    await loader.write(base, image, ({ done }) => void seen.push(done), { raised: false })
    expect(seen.at(-1)).toBe(image.length)
    expect(equalBytes(memory.subarray(0, image.length), image)).toBe(true)
    expect(await loader.verify(base, image)).toMatchObject({ outcome: 'equal-checksum', by: 'CRC-32' })
    expect((await loader.verify(base, patterned(20_000).fill(1))).outcome).toBe('different')
    expect(
      equalBytes(await loader.read!({ address: base, length: 5000 }, () => {}), image.subarray(0, 5000)),
    ).toBe(true)
    await loader.startApplication()
    expect(resets).toHaveLength(1)
    expect(crc32(memory.subarray(0, image.length))).toBe(crc32(image))
  })
  // Source: ISO 14229-1, clause 14.5.5: a block repeated with its number is answered again and not written again.
  it('sends a block again when its answer was lost, and the unit takes it once', async () => {
    let lost = 0
    const { loader, memory } = bench({
      disturb: (frame, from) =>
        from === 'unit' && frame.data[1] === service.transferData + 0x40 && lost++ === 1 ? [] : [frame],
    })
    const image = patterned(5000)
    await loader.erase({ address: base, length: image.length }, () => {})
    let retries = 0
    await loader.write(base, image, (progress) => void (retries = progress.retries), { raised: false })
    expect(retries).toBe(1)
    expect(equalBytes(memory.subarray(0, image.length), image)).toBe(true)
  })
  it('stops where the person abandons it, and says at which byte', async () => {
    const { loader } = bench()
    const abandon = { raised: false }
    await loader.erase({ address: base, length: 5000 }, () => {})
    const error = await loader
      .write(base, patterned(5000), () => void (abandon.raised = true), abandon)
      .catch((reason: unknown) => reason)
    expect(isProblem(error, 'write-abandoned') && error.facts.place?.offset).toBe(1024)
  })
  it('says that no controller is there', async () => {
    const { transport, clock } = bench({ disturb: () => [] })
    await expect(udsLoader(transport, clock, settings, async () => []).attach()).rejects.toMatchObject(
      code('no-bootloader'),
    )
  })
})

describe('any bytes at all', () => {
  it('as an answer give a value or a Problem of our own', async () => {
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.uint8Array({ minLength: 1, maxLength: 40 }), { maxLength: 4 }),
        async (list) => {
          const answers = list.map((bytes) => Buffer.from(bytes).toString('hex'))
          const client = udsClient(scripted(answers), still)
          for (const act of [
            () => client.readData(0xf189),
            () => client.readFaults(0xff),
            () => client.requestDownload(0, 1),
            () => client.unlock(1, () => new Uint8Array(4)),
          ]) {
            const error = await act().then(
              () => null,
              (reason: unknown) => reason,
            )
            expect(error === null || isProblem(error)).toBe(true)
          }
        },
      ),
    )
  })
  it('as a request are answered or passed over, and the controller goes on', async () => {
    const { transport, client } = bench()
    await fc.assert(
      fc.asyncProperty(fc.uint8Array({ minLength: 1, maxLength: 30 }), async (request) => {
        await transport.send(request)
        await transport.receive(200).catch(() => null)
      }),
      { numRuns: 200 },
    )
    await client.session(1)
    expect([...(await client.readData(0xf189))]).toEqual([...asciiBytes('4.2.0')])
  })
})
