import type { Clock } from '@bench-wake/core/kernel'
import type { Port } from '@bench-wake/core/link'
import type { StandIn } from '@bench-wake/standins'
import { SerialPort } from 'serialport'
import { notFound } from '../problem'
import { serialPort } from './serial-port'

/** A port as a person chooses it. */
export interface PortEntry {
  id: string
  name: string
  kind: 'stand-in' | 'serial'
  /** The unit a stand-in stands for. */
  unitId?: string
  /** True when a meter at the unit's terminals comes with it. */
  hasMeter: boolean
  /** USB identifiers of the converter, where the system tells. */
  usb?: { vendorId?: string; productId?: string; serialNumber?: string; maker?: string }
  /** Run that holds it. */
  heldBy?: string
  present: boolean
}

export interface OpenedPort {
  port: Port
  /** Absent where nothing measures. */
  meter?: Port
}

const standInPrefix = 'stand-in:'
const serialPrefix = 'serial:'

/** The stand-ins and this computer's serial ports, on one footing. */
export class Ports {
  constructor(private readonly standIns: ReadonlyMap<string, StandIn>) {}

  async list(heldBy: (portId: string) => string | undefined): Promise<PortEntry[]> {
    const simulated = [...this.standIns.values()].map((unit): PortEntry => ({
      id: standInPrefix + unit.id,
      name: `Stand-in, ${unit.name}`,
      kind: 'stand-in',
      unitId: unit.id,
      hasMeter: true,
      present: true,
    }))
    const listed = await SerialPort.list().catch(() => [])
    const real = listed.map((each): PortEntry => {
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
        hasMeter: false,
        present: true,
        ...(Object.keys(usb).length ? { usb } : {}),
      }
    })
    return [...simulated, ...real].map((entry) => withHolder(entry, heldBy))
  }

  /** One entry by id. A serial port may be named by its path though the system does not list it (a pseudo-terminal). */
  async find(id: string, heldBy: (portId: string) => string | undefined): Promise<PortEntry> {
    const listed = (await this.list(heldBy)).find((entry) => entry.id === id)
    if (listed) return listed
    if (!id.startsWith(serialPrefix) || id.length === serialPrefix.length) throw notFound('port', id)
    const path = id.slice(serialPrefix.length)
    return withHolder({ id, name: path, kind: 'serial', hasMeter: false, present: true }, heldBy)
  }

  /** The port itself, in the given clock; not yet opened. */
  connect(id: string, clock: Clock): OpenedPort {
    if (id.startsWith(serialPrefix)) return { port: serialPort(id.slice(serialPrefix.length), clock) }
    return this.standInAt(id).connect(clock)
  }

  /** The stand-in behind a port, for the person's hand on its switch; undefined for real ports. */
  standIn(id: string): StandIn | undefined {
    return id.startsWith(standInPrefix) ? this.standIns.get(id.slice(standInPrefix.length)) : undefined
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
