import { standInPort, standInOf } from '@bench-wake/core/link'
import { Problem, type Clock } from '@bench-wake/core/kernel'
import type { Channel, Port } from '@bench-wake/core/link'
import type { ClipSeat, StandIn } from '@bench-wake/standins'
import { existsSync } from 'node:fs'
import { SerialPort } from 'serialport'
import { notFound } from '../problem'
import { Cable, throughCable } from './cable'
import type { LentPorts } from './lent'
import { portHolders } from './port-holders'
import { serialPort } from './serial-port'
import { listUsbDevices, usbDevicePort } from './usb-device-port'

/** A port as a person chooses it. */
export interface PortEntry {
  id: string
  name: string
  /** `lent` is of another computer, by its page. */
  kind: 'stand-in' | 'serial' | 'usb' | 'lent'
  /** What is plugged in there: a serial line or a USB device. */
  channel: Channel['kind']
  /** The unit a stand-in stands for. */
  unitId?: string
  /** True when a meter stands at the terminals of what is joined here: a stand-in's own, or the bench's. */
  hasMeter: boolean
  /** True for the port that the bench's meter stands at. */
  isMeter?: true
  /** USB identifiers of the converter, where the system tells. */
  usb?: { vendorId?: string; productId?: string; serialNumber?: string; maker?: string }
  /** Another program that holds it, where the system tells: name and process. */
  program?: string
  /** Run that holds it. */
  heldBy?: string
  present: boolean
}

/** A stand-in's cable, and what else of it a person's hand moves. */
export interface StandInCable {
  id: string
  name: string
  joined: boolean
  /** The lamp at its battery is lit. */
  lamp?: boolean
  clip?: ClipSeat
}

export interface OpenedPort {
  channel: Channel
  /** Absent where nothing measures. */
  meter?: Port
}

/** What the system tells of a port that it does not list. */
const notListed = {
  manufacturer: undefined,
  serialNumber: undefined,
  pnpId: undefined,
  locationId: undefined,
  productId: undefined,
  vendorId: undefined,
}
const serialPrefix = 'serial:'
const usbPrefix = 'usb:'
const lentPrefix = 'lent:'

/** The stand-ins and this computer's serial ports, on one footing. */
export class Ports {
  /** Cables of the stand-ins, by port. */
  private readonly cables = new Map<string, Cable>()

  /** Ports that were looked up: nothing else is opened. */
  private readonly found = new Set<string>()
  private meterPort: string | null = null

  constructor(
    private readonly standIns: Map<string, StandIn>,
    private readonly lent?: LentPorts,
    /** Device paths that a setting names beside what the system lists. */
    private readonly named: readonly string[] = [],
    /** Parts of device paths: only such ports of the system's own list are shown; all where it is empty. */
    private readonly shown: readonly string[] = [],
  ) {}

  /** The port that the bench's meter stands at; null where none has the job. */
  setMeter(portId: string | null): void {
    this.meterPort = portId
  }

  /** A stand-in that was made while the program runs; one of the same id goes. */
  putStandIn(unit: StandIn): void {
    this.standIns.set(unit.id, unit)
  }

  async list(heldBy: (portId: string) => string | undefined): Promise<PortEntry[]> {
    const [serial, usb] = [await this.serialEntries(), await this.usbEntries()]
    // What is real comes first.
    return [...serial, ...usb, ...this.lentEntries(), ...this.standInEntries()].map((entry) =>
      withHolder(this.withMeter(entry), heldBy),
    )
  }

  /** Those whose cable is joined. */
  private standInEntries(): PortEntry[] {
    const simulated = [...this.standIns.values()].map((unit): PortEntry => ({
      id: standInPort(unit.id),
      name: `Stand-in, ${unit.name}`,
      kind: 'stand-in',
      channel: unit.channel,
      unitId: unit.id,
      hasMeter: unit.hasMeter,
      present: true,
    }))
    return simulated.filter(({ id }) => this.cable(id).joined)
  }

  private async serialEntries(): Promise<PortEntry[]> {
    const all = await SerialPort.list().catch(() => [])
    const system = all.filter(
      ({ path }) => this.shown.length === 0 || this.shown.some((part) => path.includes(part)),
    )
    const own = this.named.filter((path) => !system.some((each) => each.path === path))
    const listed = [...system, ...own.map((path) => ({ ...notListed, path }))]
    const programs =
      listed.length > 0 ? await portHolders(listed.map(({ path }) => path)) : new Map<string, string>()
    return listed.map((each): PortEntry => {
      const usb = {
        ...(each.vendorId ? { vendorId: each.vendorId } : {}),
        ...(each.productId ? { productId: each.productId } : {}),
        ...(each.serialNumber ? { serialNumber: each.serialNumber } : {}),
        ...(each.manufacturer ? { maker: each.manufacturer } : {}),
      }
      return {
        id: serialPrefix + each.path,
        name: each.path,
        kind: 'serial',
        channel: 'serial',
        hasMeter: false,
        present: !own.includes(each.path) || existsSync(each.path),
        ...(programs.has(each.path) ? { program: programs.get(each.path)! } : {}),
        ...(Object.keys(usb).length ? { usb } : {}),
      }
    })
  }

  private async usbEntries(): Promise<PortEntry[]> {
    return (await listUsbDevices()).map((each): PortEntry => ({
      id: usbPrefix + each.id,
      name: each.name,
      kind: 'usb',
      channel: 'usb',
      hasMeter: false,
      present: true,
      usb: each.usb,
    }))
  }

  private lentEntries(): PortEntry[] {
    return (this.lent?.list() ?? []).map((each): PortEntry => ({
      id: lentPrefix + each.id,
      name: `Lent, ${each.name}`,
      kind: 'lent',
      channel: each.kind,
      hasMeter: false,
      present: true,
      ...(each.usb ? { usb: each.usb } : {}),
    }))
  }

  /** Entries of the kind that an id names: the system is asked for its ports only where one of them is meant. */
  private async entriesLike(id: string): Promise<PortEntry[]> {
    if (id.startsWith(serialPrefix)) return this.serialEntries()
    if (id.startsWith(usbPrefix)) return this.usbEntries()
    return id.startsWith(lentPrefix) ? this.lentEntries() : this.standInEntries()
  }

  /**
   * One entry by id.
   * @throws Problem `not-found`: a path that neither the system lists as a serial port nor a setting names is none,
   *   whatever else stands there.
   */
  async find(id: string, heldBy: (portId: string) => string | undefined): Promise<PortEntry> {
    const listed = (await this.entriesLike(id)).find((entry) => entry.id === id)
    if (listed) {
      this.found.add(id)
      return withHolder(this.withMeter(listed), heldBy)
    }
    const pulled = this.standIn(id)
    if (pulled) {
      const { id: unitId, name } = pulled
      return {
        id,
        name: `Stand-in, ${name}`,
        kind: 'stand-in',
        channel: pulled.channel,
        unitId,
        hasMeter: pulled.hasMeter,
        present: false,
      }
    }
    if (!id.startsWith(serialPrefix)) throw notFound('port', id)
    throw new Problem({
      kind: 'not-found',
      thing: id.slice(serialPrefix.length),
      says: 'this computer has no such serial port',
      remedy:
        'Look whether its adapter is plugged in. A device that the system does not list as one is named in BENCH_WAKE_PORTS.',
    })
  }

  /** The port itself, in the given clock; not yet opened. */
  connect(id: string, clock: Clock): OpenedPort {
    if (id.startsWith(serialPrefix)) {
      if (!this.found.has(id)) throw notFound('port', id)
      return { channel: { kind: 'serial', port: serialPort(id.slice(serialPrefix.length), clock) } }
    }
    if (id.startsWith(lentPrefix) && this.lent) {
      return { channel: this.lent.connect(id.slice(lentPrefix.length), clock) }
    }
    if (id.startsWith(usbPrefix))
      return { channel: { kind: 'usb', port: usbDevicePort(id.slice(usbPrefix.length), clock) } }
    const { channel, ...rest } = this.standInAt(id).connect(clock)
    return { ...rest, channel: throughCable(channel, this.cable(id)) }
  }

  /** The person's hands on a stand-in's bus: these neighbours are off, all others on. Nothing at a real port. */
  takeOff(id: string, neighbours: readonly string[]): void {
    this.standIn(id)?.unplug?.(neighbours)
  }

  /** The person's hand on a stand-in's cable. */
  plug(id: string, joined: boolean): void {
    this.standInAt(id)
    this.cable(id).plug(joined)
  }

  /** The person's hand on the switch of a lamp at a stand-in's battery. @throws Problem `not-found` where it has none. */
  light(id: string, on: boolean): void {
    const { lamp } = this.standInAt(id)
    if (!lamp) throw notFound('lamp at this stand-in', id)
    lamp.on = on
  }

  /** The person's hand on a stand-in's clip. @throws Problem `not-found` where it has none. */
  seat(id: string, seat: ClipSeat): void {
    const { clip } = this.standInAt(id)
    if (!clip) throw notFound('clip on this stand-in', id)
    clip.seat = seat
  }

  /** Stand-ins, those too whose cable is pulled. */
  standInCables(): StandInCable[] {
    return [...this.standIns.values()].map(({ id, name, lamp, clip }) => ({
      id: standInPort(id),
      name,
      joined: this.cable(standInPort(id)).joined,
      ...(lamp ? { lamp: lamp.on } : {}),
      ...(clip ? { clip: clip.seat } : {}),
    }))
  }

  /** The stand-in behind a port, for the person's hand on its switch; undefined for real ports. */
  standIn(id: string): StandIn | undefined {
    const unitId = standInOf(id)
    return unitId === null ? undefined : this.standIns.get(unitId)
  }

  private withMeter(entry: PortEntry): PortEntry {
    if (this.meterPort === null || entry.kind === 'stand-in') return entry
    return entry.id === this.meterPort ? { ...entry, isMeter: true } : { ...entry, hasMeter: true }
  }

  private cable(id: string): Cable {
    let cable = this.cables.get(id)
    if (!cable) this.cables.set(id, (cable = new Cable()))
    return cable
  }

  private standInAt(id: string): StandIn {
    const unit = this.standIn(id)
    if (!unit) throw notFound('port', id)
    return unit
  }
}

function withHolder(entry: PortEntry, heldBy: (portId: string) => string | undefined): PortEntry {
  const holder = heldBy(entry.id)
  return holder === undefined ? entry : { ...entry, heldBy: holder }
}
