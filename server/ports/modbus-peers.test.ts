import { until } from '@bench-wake/testing/until'
import { answerIdentity, refuseModbus, serveModbus } from '@bench-wake/standins'
import { realClock } from '@bench-wake/core/kernel'
import {
  askIdentity,
  askModbus,
  readIdentity,
  readRegisters,
  writeRegisters,
  type Port,
  type SerialSettings,
} from '@bench-wake/core/link'
import jsmodbus from 'jsmodbus'
import ModbusRTU, { ServerSerial } from 'modbus-serial'
import { spawn, type ChildProcess } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { SerialPort } from 'serialport'
import { afterEach, describe, expect, it } from 'vitest'
import { hostTime } from '../host-time'
import { scratchFolder } from '../server.test-support'
import { serialPort } from './serial-port'

/*
 * Outside peers for Modbus RTU: the packages modbus-serial and jsmodbus, each at the other end of a pair of
 * pseudo-terminals, as master against our unit and as unit against our master.
 */
const folder = scratchFolder()
const settings: SerialSettings = { baudRate: 9600, dataBits: 8, parity: 'none', stopBits: 1 }
const timing = { answerMs: 2000 }
let count = 0
let socat: ChildProcess | undefined
let ours: Port | undefined
const closing: (() => Promise<void> | void)[] = []

afterEach(async () => {
  for (const close of closing.splice(0)) await close()
  await ours?.close()
  socat?.kill()
})

/** A pair of pseudo-terminals: our port at one end, the path of the other. */
async function pair(): Promise<{ port: Port; far: string }> {
  const [near, far] = [join(folder, `near-${count}`), join(folder, `far-${count++}`)]
  socat = spawn('socat', [`pty,rawer,link=${near}`, `pty,rawer,link=${far}`], { stdio: 'ignore' })
  await until(() => existsSync(near) && existsSync(far), 'The pair of terminals')
  ours = serialPort(near, realClock(hostTime))
  await ours.open(settings)
  return { port: ours, far }
}

/** A unit of ours with eight holding registers. */
function unitOfOurs(registers: number[]) {
  return {
    address: 7,
    answer(pdu: Uint8Array): Uint8Array {
      const word = (at: number) => (pdu[at]! << 8) | pdu[at + 1]!
      if (pdu[0] === 0x2b) return answerIdentity(['Corrie Sound', 'BP-5', '31.07'])
      if (pdu[0] === 3) {
        if (word(1) + word(3) > registers.length) return refuseModbus(3, 2)
        const words = registers.slice(word(1), word(1) + word(3))
        return Uint8Array.of(3, words.length * 2, ...words.flatMap((each) => [each >> 8, each & 255]))
      }
      if (pdu[0] === 6) registers[word(1)] = word(3)
      else if (pdu[0] === 16) {
        for (let at = 0; at < word(3); at++) registers[word(1) + at] = word(6 + at * 2)
      } else return refuseModbus(pdu[0]!, 1)
      return pdu.slice(0, 5)
    },
  }
}

describe('modbus-serial', () => {
  it('as master reads and writes our unit, and is told an exception', async () => {
    const { port, far } = await pair()
    const registers = [10, 20, 30, 40, 0, 0, 0, 0xbeef]
    void serveModbus(
      port,
      () => [unitOfOurs(registers)],
      (ms) => new Promise((done) => setTimeout(done, ms)),
    ).catch(() => {})
    const master = new ModbusRTU()
    await master.connectRTUBuffered(far, { baudRate: 9600 })
    closing.push(() => new Promise<void>((done) => master.close(() => done())))
    master.setID(7)
    master.setTimeout(3000)
    expect((await master.readHoldingRegisters(0, 4)).data).toEqual([10, 20, 30, 40])
    await master.writeRegister(4, 0x1234)
    await master.writeRegisters(5, [1, 2])
    expect(registers.slice(4, 7)).toEqual([0x1234, 1, 2])
    await expect(master.readHoldingRegisters(6, 10)).rejects.toMatchObject({ modbusCode: 2 })
    const identity = (await master.readDeviceIdentification(1, 0)) as unknown as {
      data: Record<number, string>
    }
    expect(identity.data).toEqual({ 0: 'Corrie Sound', 1: 'BP-5', 2: '31.07' })
  })
  it('as unit answers our master', async () => {
    const { port, far } = await pair()
    const written = new Map<number, number>()
    const server = new ServerSerial(
      {
        getHoldingRegister: (address: number) => written.get(address) ?? 100 + address,
        setRegister: (address: number, value: number) => void written.set(address, value),
        readDeviceIdentification: () => ({ 0: 'Corrie Sound', 1: 'BP-5', 2: '31.07' }),
      } as never,
      { path: far, baudRate: 9600, unitID: 7 } as never,
    )
    closing.push(() => new Promise<void>((done) => server.close(() => done())))
    await new Promise<void>((done) => server.on('initialized', () => done()))
    expect(await readRegisters(port, 7, 3, 3)).toEqual([103, 104, 105])
    await writeRegisters(port, 7, 3, [7, 8])
    expect(await readRegisters(port, 7, 3, 3)).toEqual([7, 8, 105])
    expect(readIdentity(await askModbus(port, 7, askIdentity, timing)).get(1)).toBe('BP-5')
    await expect(askModbus(port, 9, askIdentity, { answerMs: 400 })).rejects.toMatchObject({
      facts: { kind: 'modbus-silent' },
    })
  })
})

describe('jsmodbus', () => {
  const open = (path: string) =>
    new Promise<SerialPort>((done, fail) => {
      const line = new SerialPort({ path, ...settings }, (error) => (error ? fail(error) : done(line)))
    })
  it('as master reads and writes our unit', async () => {
    const { port, far } = await pair()
    const registers = [1, 2, 3, 4, 0, 0, 0, 0]
    void serveModbus(
      port,
      () => [unitOfOurs(registers)],
      (ms) => new Promise((done) => setTimeout(done, ms)),
    ).catch(() => {})
    const line = await open(far)
    closing.push(() => new Promise<void>((done) => line.close(() => done())))
    const master = new jsmodbus.client.RTU(line as never, 7)
    const { response } = await master.readHoldingRegisters(0, 4)
    expect([...response.body.valuesAsArray]).toEqual([1, 2, 3, 4])
    await master.writeSingleRegister(4, 0x4321)
    expect(registers[4]).toBe(0x4321)
  })
  it('as unit answers our master', async () => {
    const { port, far } = await pair()
    const line = await open(far)
    closing.push(() => new Promise<void>((done) => line.close(() => done())))
    const holding = Buffer.alloc(64)
    holding.writeUInt16BE(0x0102, 6)
    const unit = new jsmodbus.server.RTU(line as never, { holding })
    expect(unit.holding).toBe(holding)
    expect(await readRegisters(port, 1, 3, 2)).toEqual([0x0102, 0])
    await writeRegisters(port, 1, 8, [0xaa55, 0x0f0f])
    expect([...holding.subarray(16, 20)]).toEqual([0xaa, 0x55, 0x0f, 0x0f])
  })
})
