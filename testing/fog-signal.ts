import { applicationRegions, componentOf, type Family, type Region } from '@bench-wake/core/family'
import {
  addressText,
  asciiBytes,
  asciiText,
  crc32,
  hexNumber,
  isProblem,
  Problem,
  type Clock,
} from '@bench-wake/core/kernel'
import { portLost, receiveXmodem, type Port, type SerialSettings } from '@bench-wake/core/link'
import {
  batterySupply,
  norFlash,
  scpiMeterUnit,
  serialLine,
  type Disturb,
  type Line,
  type NorFlash,
  type StandIn,
  type StandInState,
  type Supply,
  type SupplyForm,
} from '@bench-wake/standins'

/*
 * The fog-signal controller as a unit: a text console in its firmware, a bootloader that takes images by XMODEM,
 * NOR flash, and a battery. Written from the family's profile, not from the program's own client, so that each
 * checks the other: a unit for tests that shares no code with the stand-ins that play a profile.
 */

export interface FogSignalForm {
  id: string
  name: string
  family: Family
  hardware: string
  serial: string
  state: StandInState
  supply?: SupplyForm
  faults?: {
    /** The supply fails when this many bytes of a transfer are programmed. */
    powerFailsAtByte?: number
    disturb?: Disturb
  }
}

const lineSettings: SerialSettings = { baudRate: 115_200, dataBits: 8, parity: 'none', stopBits: 1 }

/** A 12 V lead-acid battery of some years with five metres of lead. */
export const agedBattery: SupplyForm = {
  restVolts: 12.58,
  voltsPerAh: 0.012,
  ohms: 0.11,
  slowOhms: 0.1,
  slowSeconds: 25,
}

const amps = { off: 0, idle: 0.35, erase: 0.95, write: 1.1 }
const brownOutVolts = 9.5
/** Two work lamps at the same battery, A. */
const lampAmps = 12
const bootMs = 1400
const resetMs = 500

/** Where the firmware keeps its own figures (the family's memory plan). */
const headerAt = 0x1c0
const header = {
  magic: 'FOGSIGNL',
  device: 8,
  hardwareMajor: 16,
  hardwareMinor: 17,
  version: 20,
  built: 32,
  length: 36,
}

export function fogSignal(form: FogSignalForm): StandIn {
  const { family, state } = form
  const region: Region = applicationRegions(componentOf(family, 'main'))[0]!
  const bytes = state.flash
  const lamp = { on: false }
  let session: Session | undefined

  /** Supply off and on, with its two keys held or not. Between two sessions nobody looks: it is so at the next one. */
  const switched = (stayInBootloader: boolean) => {
    if (session && !session.over) {
      session.powerCycle(stayInBootloader)
      return
    }
    if (session) state.usedAh = session.supply.usedAh
    session = undefined
    state.inBootloader = stayInBootloader
  }

  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: family.links[0]!.id,
    channel: 'serial',
    hasMeter: true,
    lamp,
    connect(clock) {
      this.state()
      session?.end()
      const supply = batterySupply(form.supply ?? agedBattery, state.usedAh)
      session = new Session(form, region, norFlash(region, clock, bytes), supply, clock, lamp)
      session.powerOn(state.inBootloader)
      return { channel: { kind: 'serial', port: session.port }, meter: session.meter }
    },
    powerCycle: () => switched(false),
    enter: () => switched(true),
    state() {
      if (session) {
        state.usedAh = session.supply.usedAh
        state.inBootloader = session.inBootloader
      }
      return state
    },
  }
}

/** The unit while something is joined to its jack: one line, one clock. */
class Session {
  readonly port: Port
  readonly meter: Port
  inBootloader = false
  private readonly line: Line
  private readonly uart: Port
  private drawing = amps.off
  /** Counts up at each loss of power; an older life's loop ends when it sees that it is not the current one. */
  private life = 0
  private ended = false
  private powered = false

  constructor(
    private readonly form: FogSignalForm,
    private readonly region: Region,
    private readonly flash: NorFlash,
    readonly supply: Supply,
    private readonly clock: Clock,
    private readonly lamp: { on: boolean },
  ) {
    const disturb = form.faults?.disturb
    this.line = serialLine({
      name: form.name,
      clock,
      unit: lineSettings,
      ...(disturb ? { disturb } : {}),
    })
    const uart = this.line.unit
    this.uart = {
      ...uart,
      // Without power nothing leaves the unit.
      write: (bytes) => (this.powered ? uart.write(bytes) : Promise.reject(portLost(form.name))),
    }
    const host = this.line.host
    this.port = {
      ...host,
      name: host.name,
      get settings() {
        return host.settings
      },
      close: async () => {
        this.end()
        await host.close()
      },
    }
    this.meter = scpiMeterUnit(`${form.name}, meter`, clock, () => this.volts())
  }

  get over(): boolean {
    return this.ended
  }

  volts(): number {
    return this.supply.voltsAt(this.clock.now(), this.drawing + (this.lamp.on ? lampAmps : 0))
  }

  end(): void {
    this.ended = true
    this.powerOff()
  }

  powerOn(stayInBootloader: boolean): void {
    if (this.ended) return
    this.powered = true
    this.draw(amps.idle)
    void this.live(++this.life, stayInBootloader)
  }

  powerCycle(stayInBootloader = false): void {
    if (this.ended) return
    this.powerOff()
    this.powerOn(stayInBootloader)
  }

  private powerOff(): void {
    this.life++
    this.powered = false
    this.draw(amps.off)
    this.line.interruptUnit()
  }

  private draw(newAmps: number): void {
    this.supply.voltsAt(this.clock.now(), this.drawing)
    this.drawing = newAmps
  }

  private async live(life: number, stayInBootloader: boolean): Promise<void> {
    try {
      let inApplication = !stayInBootloader && this.applicationFault() === null
      if (!stayInBootloader) await this.clock.sleep(bootMs)
      while (this.life === life) {
        this.inBootloader = !inApplication
        if (inApplication) {
          await this.application(life)
          await this.clock.sleep(resetMs)
        } else await this.bootloader(life)
        inApplication = !inApplication
      }
    } catch (error) {
      // The line went or the supply did; this life is over and the next one starts its own loop.
      if (!isProblem(error)) throw error
    }
  }

  /** The firmware's console; returns when it was told to go to the bootloader. */
  private async application(life: number): Promise<void> {
    await this.print(`fog signal ${this.form.hardware}`)
    for (;;) {
      const command = await this.command(life)
      if (command === 'id') {
        const { version, built } = this.firmware()
        await this.print(
          'device   FS-20',
          `hardware ${this.form.hardware}`,
          `serial   ${this.form.serial}`,
          'boot     1.3',
          `main     ${version}`,
          `built    ${new Date(built * 1000).toISOString().slice(0, 16)}Z`,
          'horn     2 blasts every 60 s',
          `supply   ${this.volts().toFixed(2)} V`,
          'ok',
        )
      } else if (command === 'update') {
        await this.print('entering bootloader', 'ok')
        return
      } else if (command !== '') await this.print('error unknown command')
    }
  }

  /** The bootloader's console; returns when it starts the firmware. */
  private async bootloader(life: number): Promise<void> {
    await this.print('boot ready')
    for (;;) {
      const [word, ...numbers] = (await this.command(life)).split(' ')
      const [address = NaN, length = NaN] = numbers.map((text) => parseInt(text, 16))
      if (word === '') await this.print('boot ready')
      else if (word === 'info') {
        await this.print(
          'device   FS-20',
          `hardware ${this.form.hardware}`,
          `serial   ${this.form.serial}`,
          'boot     1.3',
          `app      ${this.applicationFault() ?? 'intact'}`,
          'ok',
        )
      } else if (word === 'erase') await this.erase(address, length)
      else if (word === 'load') await this.load(address)
      else if (word === 'crc') {
        if (!this.covers(address, length)) await this.print('error outside the application')
        else {
          const from = address - this.flash.address
          await this.print(`crc ${hexNumber(crc32(this.flash.bytes.subarray(from, from + length)), 8)}`, 'ok')
        }
      } else if (word === 'boot') {
        const fault = this.applicationFault()
        if (fault) await this.print(`error no application: ${fault}`)
        else {
          await this.print('starting', 'ok')
          await this.clock.sleep(bootMs)
          return
        }
      } else await this.print('error unknown command')
    }
  }

  private async erase(address: number, length: number): Promise<void> {
    if (!this.covers(address, length)) return this.print('error outside the application')
    this.draw(amps.erase)
    await this.flash.erase(address, length, (done, total) => this.print(`sector ${done}/${total}`))
    this.draw(amps.idle)
    await this.print('ok')
  }

  private async load(address: number): Promise<void> {
    if (!this.covers(address, 128)) return this.print('error outside the application')
    await this.print('send xmodem')
    const life = this.life
    const failsAt = this.form.faults?.powerFailsAtByte ?? Infinity
    this.draw(amps.write)
    try {
      await receiveXmodem(this.uart, {
        onBlock: async (data, at) => {
          if (!this.covers(address + at, data.length)) throw pastTheEnd(address + at)
          await this.flash.program(address + at, data)
          if (at + data.length >= failsAt) {
            // The fault is spent, so that the next life is a sound one.
            if (this.form.faults) this.form.faults.powerFailsAtByte = Infinity
            this.powerOff()
            throw portLost(this.form.name)
          }
          if (this.volts() < brownOutVolts) {
            this.powerOff()
            this.clock.after(resetMs, () => this.powerOn(false))
            throw portLost(this.form.name)
          }
        },
      })
      this.draw(amps.idle)
      await this.print('ok')
    } catch (error) {
      if (this.life !== life || !isProblem(error)) throw error
      this.draw(amps.idle)
      await this.print(`error ${error.facts.says}`)
    }
  }

  private covers(address: number, length: number): boolean {
    return address >= this.region.address && address + length <= this.region.address + this.region.length
  }

  /** What keeps the firmware from starting, or null: read from the bytes that are really there. */
  private applicationFault(): string | null {
    const { bytes } = this.flash
    if (asciiText(bytes.subarray(headerAt, headerAt + 8)) !== header.magic) return 'none'
    const { device, hardwareMajor, length } = this.firmware()
    if (device !== 'FS-20') return 'for another device'
    if (hardwareMajor !== parseInt(this.form.hardware)) return 'for another hardware'
    if (length < 8 || length > bytes.length) return 'damaged'
    const kept = new DataView(bytes.buffer, bytes.byteOffset).getUint32(length - 4, true)
    return crc32(bytes.subarray(0, length - 4)) === kept ? null : 'damaged'
  }

  private firmware() {
    const at = this.flash.bytes.subarray(headerAt)
    const text = (from: number, length: number) => asciiText(at.subarray(from, from + length)).split('\0')[0]!
    const view = new DataView(at.buffer, at.byteOffset)
    return {
      device: text(header.device, 8),
      hardwareMajor: at[header.hardwareMajor]!,
      version: text(header.version, 12),
      built: view.getUint32(header.built, true),
      length: view.getUint32(header.length, true),
    }
  }

  private async print(...lines: string[]): Promise<void> {
    await this.uart.write(asciiBytes(lines.map((line) => `${line}\r\n`).join('')))
  }

  /** The next command line; ends with an error when the supply was cut meanwhile. */
  private async command(life: number): Promise<string> {
    let text = ''
    for (;;) {
      const got = await this.uart.read(64, Infinity)
      if (this.life !== life) throw portLost(this.form.name)
      if (!got) continue
      text += asciiText(got)
      const end = text.indexOf('\r')
      if (end >= 0) return text.slice(0, end).trim()
    }
  }
}

function pastTheEnd(address: number): Problem {
  return new Problem({
    kind: 'unit-past-end',
    says: 'the image runs past the end of the flash',
    found: addressText(address),
    remedy: 'Take the image of this controller.',
  })
}
