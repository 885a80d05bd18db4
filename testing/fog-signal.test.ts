import { asciiBytes, asciiText, crc32, hexNumber, virtualClock } from '@bench-wake/core/kernel'
import { sendXmodem, type Port } from '@bench-wake/core/link'
import { demoFirmware, demoImages, fogSignalFamily } from '@bench-wake/demo'
import { describe, expect, it } from 'vitest'
import { fogSignal, type FogSignalForm } from './fog-signal'

const turn = () => new Promise<void>((done) => setImmediate(done))
const settings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 } as const
const [new248, old241] = [demoImages[0]!.image, demoImages[1]!.image]

async function joined(form: Partial<FogSignalForm> = {}, firmware: Uint8Array | null = demoFirmware(old241)) {
  const flash = new Uint8Array(0x40000).fill(0xff)
  if (firmware) flash.set(firmware)
  const clock = virtualClock(turn)
  const unit = fogSignal({
    id: 'x',
    name: 'x',
    family: fogSignalFamily,
    hardware: '3.1',
    serial: 'FS3-1',
    state: { flash, usedAh: 0, inBootloader: false },
    ...form,
  })
  const { channel } = unit.connect(clock)
  if (channel.kind !== 'serial') throw new TypeError('a fog signal has a serial jack')
  const { port } = channel
  await port.open(settings)
  await clock.sleep(2000)
  return { clock, unit, port, flash }
}

/** Types a command as a person at a terminal would, and reads until the line is quiet. */
async function type(port: Port, command: string): Promise<string> {
  while (await port.read(4096, 50)) {
    // What the unit said before.
  }
  await port.write(asciiBytes(`${command}\r`))
  let text = ''
  for (let bytes = await port.read(4096, 4000); bytes; bytes = await port.read(4096, 300))
    text += asciiText(bytes)
  return text
}

describe('the fog-signal controller at a terminal', () => {
  it('says its page, with the version that is in its flash', async () => {
    const { port } = await joined()
    const page = await type(port, 'id')
    expect(page).toMatch(/^device\s+FS-20\r\n/)
    expect(page).toMatch(/main\s+2\.41\r\n/)
    expect(page).toMatch(/ok\r\n$/)
    expect(await type(port, 'dance')).toBe('error unknown command\r\n')
  })
  it('goes to its bootloader by command, and back by another', async () => {
    const { port, clock } = await joined()
    expect(await type(port, 'update')).toContain('entering bootloader')
    await clock.sleep(1000)
    expect(await type(port, 'info')).toMatch(/app\s+intact/)
    expect(await type(port, 'boot')).toContain('starting')
    await clock.sleep(2000)
    expect(await type(port, 'id')).toMatch(/main\s+2\.41/)
  })
  it('without firmware stays in its bootloader and says why it cannot start', async () => {
    const { port } = await joined({}, null)
    expect(await type(port, 'info')).toMatch(/app\s+none/)
    expect(await type(port, 'boot')).toContain('error no application: none')
  })
  // PRACTICE A4, common practice: the image of one hardware line does not run on the other.
  it('does not start an image for another hardware line', async () => {
    const { port } = await joined({ hardware: '2.4' })
    expect(await type(port, 'boot')).toContain('for another hardware')
  })
  it('refuses to erase its bootloader and its settings', async () => {
    const { port } = await joined({}, null)
    expect(await type(port, 'erase 08000000 00001000')).toContain('error outside the application')
    expect(await type(port, 'erase 08047000 00002000')).toContain('error outside the application')
  })
  it('written without an erase holds neither the old nor the new image', async () => {
    const { port, flash, clock } = await joined()
    await type(port, 'update')
    await clock.sleep(1000)
    await port.write(asciiBytes('load 08008000\r'))
    const bytes = demoFirmware({ ...new248, length: 0x2000 })
    await sendXmodem(port, bytes, { blockBytes: 1024, padByte: 0xff })
    const old = demoFirmware(old241)
    expect([...flash.subarray(0, 0x2000)].every((byte, at) => byte === (old[at]! & bytes[at]!))).toBe(true)
    expect(await type(port, 'boot')).toContain('error no application')
  })
  it('written after an erase holds the image, by its own checksum too', async () => {
    const { port, flash, clock } = await joined()
    await type(port, 'update')
    await clock.sleep(1000)
    expect(await type(port, 'erase 08008000 00002000')).toContain('sector 2/2')
    await port.write(asciiBytes('load 08008000\r'))
    const bytes = demoFirmware({ ...new248, length: 0x2000 })
    await sendXmodem(port, bytes, { blockBytes: 1024, padByte: 0xff })
    expect(Buffer.from(flash.subarray(0, 0x2000)).equals(bytes)).toBe(true)
    expect(await type(port, 'crc 08008000 00002000')).toContain(`crc ${hexNumber(crc32(bytes), 8)}`)
  })
})
