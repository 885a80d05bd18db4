import { applicationRegions, componentOf, drivenLink } from '@bench-wake/core/family'
import { virtualClock } from '@bench-wake/core/kernel'
import { dapAdapter, isoTp, openDebugPort, openLink, type SerialSettings } from '@bench-wake/core/link'
import { demoFamily } from '@bench-wake/demo'
import { canBus, dapAdapterDevice, memoryBytes, standInOf, usbDevice, wireTarget } from '@bench-wake/standins'
import { disturbedWrite, opponents } from '../../core/link/disturbed.test-support'
import type { Bench, Figure } from './figure'

const turn = () => new Promise<void>((done) => setImmediate(done))
const share = (name: string, took: number, limit: number, min: number): Figure => ({
  name,
  value: took,
  unit: 'ms',
  reference: limit,
  ratio: limit / took,
  wanted: `at least ${min * 100} % of the limit`,
  holds: limit / took >= min,
})

/** A unit in its bootloader with empty memory, and a talk over its link. */
async function joined(familyId: string, linkId: string) {
  const clock = virtualClock(turn)
  const family = demoFamily(familyId)
  const state = {
    flash: new Uint8Array(memoryBytes(family)).fill(0xff),
    usedAh: 0,
    inBootloader: true,
    lines: {},
  }
  const unit = standInOf({ id: 'x', name: 'unit', family, hardware: '2', serial: 'X-1', state }, linkId)
  unit.unplug?.(family.isolation?.neighbours.map(({ id }) => id) ?? [])
  const component = componentOf(family)
  const driver = openLink(unit.connect(clock).channel, clock, family, drivenLink(family, linkId)!, component)
  await driver.open()
  await driver.loader.attach()
  return {
    clock,
    driver,
    component,
    region: applicationRegions(component)[0]!,
    link: drivenLink(family, linkId)!,
  }
}

const image = (bytes: number) => Uint8Array.from({ length: bytes }, (_, at) => (at * 31 + (at >> 8)) & 255)

/**
 * What each link reaches of what it could: in virtual time, with a unit that answers at once where its memory does not
 * set the pace. Each limit is written out here on its own, from the standard; nothing of the program's is used for it.
 */
async function shares(): Promise<Figure[]> {
  const figures: Figure[] = []

  const modbus = await joined('station-inverter', 'bus')
  const bytes = 60_000
  const line: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'even', stopBits: 1 }
  let from = modbus.clock.now()
  await modbus.driver.loader.write(modbus.region.address, image(bytes), () => {}, { raised: false })
  // Modbus application protocol 6.15: 244 bytes of a record, 12 around them, echoed; serial line 2.5.1.1: eleven bits a
  // character at 8E1 and a silence of 1.75 ms above 19 200 baud; and the memory's own times.
  const groups = Math.ceil(bytes / 244)
  const character = 11_000 / line.baudRate
  const pages = groups * Math.ceil(244 / (modbus.region.pageBytes ?? 256))
  figures.push(
    share(
      'Modbus file records, 60 000 bytes at 115 200 baud 8E1',
      modbus.clock.now() - from,
      2 * (bytes + 12 * groups) * character +
        2 * groups * 1.75 +
        pages * (modbus.region.programMsPerPage ?? 0),
      0.97,
    ),
  )

  {
    const clock = virtualClock(turn)
    const bus = canBus(clock, () => 500_000)
    const unit = isoTp(bus.join('unit'), clock, { sendId: 0x7e8, receiveId: 0x7e0 })
    const tester = isoTp(bus.join('tester'), clock, { sendId: 0x7e0, receiveId: 0x7e8 })
    await Promise.all([unit.receive(1000), tester.send(image(4095))])
    // ISO 15765-2: a first frame of six bytes, a flow control, then seven bytes a frame. ISO 11898-1: 1 start, 11
    // identifier, 7 control, 64 data, 15 check, 1 + 2 + 7 after it and 3 of rest: 111 bits, no stuff bit counted.
    const frames = 2 + Math.ceil((4095 - 6) / 7)
    const frameBits = 1 + 11 + 7 + 64 + 15 + 1 + 2 + 7 + 3
    figures.push(
      share(
        'ISO-TP, 4 095 bytes at 500 kbit/s, block size 0, STmin 0',
        clock.now(),
        (frames * frameBits) / 500,
        // Random bytes bring about 3 % of stuff bits, which the limit leaves out.
        0.94,
      ),
    )
  }

  const dfu = await joined('tide-logger', 'usb')
  from = dfu.clock.now()
  const file = 40_960
  await dfu.driver.loader.write(dfu.region.address, image(file), () => {}, { raised: false })
  const { sectorBytes = 1024, pageBytes = 256, eraseMsPerSector = 0, programMsPerPage = 0 } = dfu.region
  figures.push(
    share(
      'DFU, 40 KiB, against its poll times and its bytes on the bus',
      dfu.clock.now() - from,
      // Universal Serial Bus 2.0 at 1 500 bytes a millisecond: 45 bytes around a control transfer and 13 more for each
      // packet of 64 after the first; DFU 1.1: a block of 1 024 bytes, then its status twice, six bytes each.
      (file / 1024) * ((45 + 1024 + 15 * 13 + 2 * (45 + 6)) / 1500) +
        (file / sectorBytes) * eraseMsPerSector +
        (file / pageBytes) * programMsPerPage +
        40,
      0.97,
    ),
  )

  {
    const clock = virtualClock(turn)
    const words = new Map<number, number>()
    const target = wireTarget(0x0bc11477, {
      read: (address) => words.get(address) ?? 0,
      write: (address, value) => (words.set(address, value), true),
    })
    const device = dapAdapterDevice({ clock, ends: { wire: target }, version: 2, serial: '1' })
    const usb = usbDevice({ name: 'adapter', clock, now: () => device })
    await usb.open()
    const port = await openDebugPort(await dapAdapter(usb), clock, 1_000_000)
    const start = clock.now()
    const length = 32_768
    await port.writeBlock(0x2000_0000, image(length))
    // CMSIS-DAP: a block's head of five bytes and its words in 512, 126 of them; bulk packets of 64 bytes with 13 around
    // each at 1 500 bytes a millisecond, and four bytes back. Serial wire: 8 request, 1 turn, 3 acknowledge, 1 turn,
    // 32 data, 1 parity: 46 bits a word.
    const packets = Math.ceil(length / 4 / Math.floor((512 - 5) / 4))
    const perPacket = (512 + 8 * 13 + 4 + 13) / 1500
    const accessBits = 8 + 1 + 3 + 1 + 32 + 1
    figures.push(
      share(
        'Debug port block writes, 32 KiB at 1 MHz, packets of 512 bytes',
        clock.now() - start,
        packets * perPacket + ((length / 4) * accessBits * 1000) / 1_000_000,
        0.95,
      ),
    )
  }
  return figures
}

/** Disturbances that each client is put through; fewer with BENCH_DISTURBANCES set. */
const wantedDisturbances = Number(process.env['BENCH_DISTURBANCES'] ?? 10_000)

async function disturbances(): Promise<Figure[]> {
  const figures: Figure[] = []
  for (const opponent of opponents) {
    let [made, runs, proved] = [0, 0, 0]
    // Throws on a hang or a false success: the figure then does not appear.
    for (let seed = 1; made < wantedDisturbances && runs < wantedDisturbances; seed++) {
      const outcome = await disturbedWrite(opponent, { seed, chance: 0.08, max: 12 }, turn)
      made += outcome.made
      runs++
      if (outcome.ended === 'proved') proved++
    }
    figures.push({
      name: `${opponent[0]}, disturbances without a hang or a false success (${runs} writes, ${proved} proved)`,
      value: made,
      unit: 'disturbances',
      reference: wantedDisturbances,
      ratio: made / wantedDisturbances,
      wanted: `${wantedDisturbances}`,
      holds: made >= wantedDisturbances,
    })
  }
  return figures
}

export const links: Bench = { name: 'links', measure: shares }
export const disturbed: Bench = { name: 'disturbed', measure: disturbances }
