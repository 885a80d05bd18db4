import type { Database } from '../db/open'
import { CardSlots } from './card-slots'
import { PortHolds } from './holds'
import { Listening } from './listening'
import { MeterRoom } from './meter-room'
import type { Ports } from './ports'
import { Readings } from './readings'
import { PortTraces } from './traces'

/** The ports with all that goes on at them outside of a run. */
export interface PortRoom {
  ports: Ports
  holds: PortHolds
  traces: PortTraces
  listening: Listening
  readings: Readings
  meter: MeterRoom
  cards: CardSlots
}

export function portRoom(db: Database, ports: Ports, cards = new CardSlots(new Map())): PortRoom {
  const holds = new PortHolds()
  const traces = new PortTraces()
  const meter = new MeterRoom(db, ports, holds)
  return {
    ports,
    holds,
    traces,
    listening: new Listening(ports, holds, traces),
    readings: new Readings(db, ports, holds, traces, meter),
    meter,
    cards,
  }
}
