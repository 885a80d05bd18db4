import { describe, expect, it } from 'vitest'
import type { UsbPort } from '../usb'
import { adapterFacts, dapAdapter, openDebugPort, type DapAdapter } from '.'
import { virtualClock } from '../../kernel'

/*
 * Adapters as their descriptors tell them, written by hand from USB 2.0 (tables 9-10, 9-12, 9-13) and the CMSIS-DAP reference
 * (DAP_Info; version 1 in reports, version 2 in bulk endpoints), sharing no code with core or the stand-ins.
 */

interface Interface {
  number?: number
  class: number
  name?: string
  endpoints: { address: number; kind: number; bytes: number }[]
}

/** Bytes of a configuration with these interfaces; a name is string number 4 and on. */
function configurationOf(interfaces: Interface[]): number[] {
  const inner = interfaces.flatMap((each, index) => [
    ...[9, 4, each.number ?? index, 0, each.endpoints.length, each.class, 0, 0, each.name ? 4 + index : 0],
    ...each.endpoints.flatMap(({ address, kind, bytes }) => [
      7,
      5,
      address,
      kind,
      bytes & 255,
      bytes >> 8,
      0,
    ]),
  ])
  const total = 9 + inner.length
  return [9, 2, total & 255, total >> 8, interfaces.length, 1, 0, 0x80, 50, ...inner]
}

const stringOf = (text: string) => [
  2 + 2 * text.length,
  3,
  ...[...text].flatMap((each) => [each.charCodeAt(0), 0]),
]

function device(interfaces: Interface[], answer: (packet: number[]) => number[]) {
  const sent: { endpoint: number; bytes: number[] }[] = []
  const asked: { endpoint: number; length: number }[] = []
  const claimed: number[] = []
  let last: number[] = []
  const port: UsbPort = {
    name: 'adapter',
    open: async () => {},
    close: async () => {},
    reset: async () => {},
    reopen: async () => {},
    controlOut: async () => {},
    claimInterface: async (number) => void claimed.push(number),
    async controlIn(setup, length) {
      const { value } = setup as unknown as { value: number }
      const kind = value >> 8
      const bytes = kind === 2 ? configurationOf(interfaces) : stringOf(interfaces[(value & 255) - 4]!.name!)
      return Uint8Array.from(bytes.slice(0, length))
    },
    async transferOut(endpoint, data) {
      sent.push({ endpoint, bytes: [...data] })
      last = [...data]
    },
    async transferIn(endpoint, length) {
      asked.push({ endpoint, length })
      return Uint8Array.from(answer(last))
    },
  }
  return { port, sent, asked, claimed }
}

const bulk = (name = 'CMSIS-DAP v2'): Interface => ({
  class: 0xff,
  name,
  endpoints: [
    { address: 0x02, kind: 2, bytes: 512 },
    { address: 0x81, kind: 2, bytes: 512 },
  ],
})
const reports = (name = 'CMSIS-DAP'): Interface => ({
  class: 3,
  name,
  endpoints: [
    { address: 0x01, kind: 3, bytes: 64 },
    { address: 0x82, kind: 3, bytes: 64 },
  ],
})
/** DAP_Info FF, the packet size: two bytes, least significant first. */
const sizes = (bytes: number) => (packet: number[]) =>
  packet[1] === 0xff ? [0, 2, bytes & 255, bytes >> 8] : [packet[0]!, 0]

describe('an adapter', () => {
  it('of version 2 is found by its name, and a packet goes as it is', async () => {
    const { port, sent, asked, claimed } = device([{ ...reports('keys') }, bulk()], sizes(1024))
    const adapter = await dapAdapter(port)
    expect(adapter).toMatchObject({ name: 'adapter', packetBytes: 1024 })
    expect(claimed).toEqual([1])
    expect(sent[0]).toEqual({ endpoint: 2, bytes: [0, 0xff] })
    expect(asked[0]).toEqual({ endpoint: 1, length: 512 })
    await adapter.exchange(Uint8Array.of(5, 0, 1))
    expect(sent[1]).toEqual({ endpoint: 2, bytes: [5, 0, 1] })
    expect(asked[1]).toEqual({ endpoint: 1, length: 1024 })
  })
  it('of version 1 gets reports of full length', async () => {
    const { port, sent, asked } = device([reports()], sizes(64))
    const adapter = await dapAdapter(port)
    expect(sent[0]!.bytes).toEqual([0, 0xff, ...Array.from({ length: 62 }, () => 0)])
    expect(sent[0]!.endpoint).toBe(1)
    expect(asked[0]).toEqual({ endpoint: 2, length: 64 })
    expect((await adapter.exchange(Uint8Array.of(7)))[0]).toBe(7)
  })
  it('that does not tell its packet size has that of its endpoint', async () => {
    for (const answer of [
      [0, 0],
      [0, 1, 200],
    ] as const)
      expect((await dapAdapter(device([bulk()], () => [...answer]).port)).packetBytes).toBe(512)
  })
  it.each([
    ['has no interface at all', [], 'none'],
    ['has another name', [bulk('a debugger')], 'class 0xFF'],
    ['has no name', [{ class: 0xff, endpoints: bulk().endpoints }], 'class 0xFF'],
    ['has its name on an interface of another class', [{ ...bulk(), class: 0x0a }], 'class 0x0A'],
    ['has no bulk endpoints in its own class', [{ ...reports(), class: 0xff }], 'class 0xFF'],
    ['only gives', [{ ...bulk(), endpoints: bulk().endpoints.slice(1) }], 'class 0xFF'],
    ['only takes', [{ ...bulk(), endpoints: bulk().endpoints.slice(0, 1) }], 'class 0xFF'],
  ] as const)('that %s is none, and what is there is said', async (_, interfaces, found) => {
    const { port, claimed } = device([...interfaces] as Interface[], sizes(64))
    await expect(dapAdapter(port)).rejects.toMatchObject({
      facts: {
        kind: 'dap-not-there',
        says: 'this is no debug adapter that this program knows',
        found,
      },
    })
    expect(claimed).toEqual([])
  })
  it('that answers something else is refused, with both', async () => {
    const adapter = await dapAdapter(device([bulk()], (packet) => (packet[1] === 0xff ? [0, 0] : [9])).port)
    await expect(adapter.exchange(Uint8Array.of(5))).rejects.toMatchObject({
      facts: {
        kind: 'dap-answer',
        expected: expect.stringContaining('5'),
        found: expect.stringContaining('9'),
      },
    })
    const silent = await dapAdapter(device([bulk()], (packet) => (packet[1] === 0xff ? [0, 0] : [])).port)
    await expect(silent.exchange(Uint8Array.of(5))).rejects.toMatchObject({ facts: { found: 'nothing' } })
  })
})

// CMSIS-DAP reference, DAP_Info: 01 vendor, 02 product, 03 serial number, 04 protocol version, 09 firmware, F0 capabilities.
describe('what an adapter says of itself', () => {
  const saying = (of: Record<number, string>, capabilities: number[]): DapAdapter => ({
    name: 'adapter',
    packetBytes: 64,
    async exchange([, what]) {
      if (what === 0xf0) return Uint8Array.of(0, ...capabilities)
      const text = of[what!] ?? ''
      // Behind it stands what was there before: a length says where a text ends.
      return Uint8Array.from([0, text.length, ...[...text].map((each) => each.charCodeAt(0)), 88, 88])
    },
  })
  it('is its maker, product, serial number, firmware and protocol; what is empty is not known', async () => {
    const all = { 1: 'A maker\0', 2: ' Probe \0', 3: '0042', 4: '2.1.1\0', 9: '1.0\0' }
    expect(await adapterFacts(saying(all, [1, 3]))).toEqual({
      maker: 'A maker',
      product: 'Probe',
      serial: '0042',
      protocol: '2.1.1',
      firmware: '1.0',
      packetBytes: 64,
      can: ['serial-wire', 'lines'],
    })
    expect(await adapterFacts(saying({ 1: '\0' }, [1, 0]))).toMatchObject({
      maker: null,
      serial: null,
      can: [],
    })
  })
  it.each([
    [[1, 1], ['serial-wire']],
    [[1, 2], ['lines']],
    [[0, 3], []],
  ])('%j can %j', async (capabilities, can) => {
    expect((await adapterFacts(saying({}, capabilities))).can).toEqual(can)
  })
})

// IHI 0031, B2.2.2: CTRL/STAT bits 29 and 31 say that debug and system are powered.
describe('a unit that does not power its debug part up', () => {
  it('is waited for a tenth of a second, and named', async () => {
    const clock = virtualClock(() => new Promise<void>((done) => setImmediate(done)))
    const adapter: DapAdapter = {
      name: 'adapter',
      packetBytes: 64,
      async exchange(packet) {
        // DAP_Transfer of reads and writes: as many as were asked, all acknowledged, each word 0.
        // DAP_Connect tells the port that it chose, 1 for serial wire.
        if (packet[0] !== 5) return Uint8Array.of(packet[0]!, packet[0] === 2 ? 1 : 0)
        const count = packet[2]!
        return Uint8Array.from([5, count, 1, ...Array.from({ length: 4 * count }, () => 0)])
      },
    }
    const before = clock.now()
    await expect(openDebugPort(adapter, clock, 1_000_000)).rejects.toMatchObject({
      facts: { kind: 'debug-no-power' },
    })
    expect(clock.now() - before).toBe(100)
  })
})
