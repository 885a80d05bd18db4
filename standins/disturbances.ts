import { concatBytes, type Clock } from '@bench-wake/core/kernel'
import { usbStall, type CanFrame, type UsbPort } from '@bench-wake/core/link'
import type { DisturbFrame } from './can-bus'
import type { Disturb, LateBytes } from './line'

/** A generator of numbers from 0 to below 1 (mulberry32), so that a disturbance can be had again by its seed. */
export function seeded(seed: number): () => number {
  let state = seed >>> 0
  return () => {
    state = (state + 0x6d2b79f5) >>> 0
    let value = Math.imul(state ^ (state >>> 15), 1 | state)
    value = (value + Math.imul(value ^ (value >>> 7), 61 | value)) ^ value
    return ((value ^ (value >>> 14)) >>> 0) / 4_294_967_296
  }
}

export interface Disturbances {
  /** How many were made so far. */
  readonly made: number
}

export interface DisturbanceForm {
  seed: number
  /** Chance of a disturbance at each piece that goes over the line. */
  chance: number
  /** Most that are made. */
  max: number
}

const kinds = ['lost', 'doubled', 'flipped', 'late', 'split', 'merged'] as const

/** Disturbs bytes on a serial line: lost, doubled, flipped, late, split and merged with what comes next. */
export function serialDisturbances({
  seed,
  chance,
  max,
}: DisturbanceForm): Disturbances & { disturb: Disturb } {
  const random = seeded(seed)
  const held = { unit: new Uint8Array(0), host: new Uint8Array(0) }
  let made = 0
  const at = (bytes: Uint8Array) => Math.floor(random() * bytes.length)
  return {
    get made() {
      return made
    },
    disturb(piece, to): Uint8Array | LateBytes[] {
      const bytes = concatBytes([held[to], piece])
      held[to] = new Uint8Array(0)
      if (bytes.length === 0 || made >= max || random() >= chance) return bytes
      made++
      const place = at(bytes)
      switch (kinds[Math.floor(random() * kinds.length)]!) {
        case 'lost':
          return concatBytes([bytes.subarray(0, place), bytes.subarray(place + 1)])
        case 'doubled':
          return concatBytes([bytes.subarray(0, place + 1), bytes.subarray(place)])
        case 'flipped':
          return bytes.map((byte, index) => (index === place ? byte ^ (1 << Math.floor(random() * 8)) : byte))
        case 'late':
          return [{ bytes, lateMs: Math.floor(random() * 3000) }]
        case 'split':
          return [
            { bytes: bytes.subarray(0, place), lateMs: 0 },
            { bytes: bytes.subarray(place), lateMs: Math.floor(random() * 200) },
          ]
        case 'merged':
          held[to] = bytes.slice()
          return new Uint8Array(0)
      }
    },
  }
}

/** Disturbs frames on the vehicle bus: a frame has its own check, so it comes whole or not at all, or twice. */
export function frameDisturbances({
  seed,
  chance,
  max,
}: DisturbanceForm): Disturbances & { disturb: DisturbFrame } {
  const random = seeded(seed)
  let made = 0
  return {
    get made() {
      return made
    },
    disturb(frame): CanFrame[] {
      if (made >= max || random() >= chance) return [frame]
      made++
      return random() < 0.5 ? [] : [frame, frame]
    },
  }
}

/**
 * Disturbs a USB device. Its packets have their own check and are sent again by the bus itself, so that bytes never come
 * changed: what is left are requests that are refused, answers that come late, and answers of another length.
 */
export function usbDisturbances(
  port: UsbPort,
  clock: Clock,
  { seed, chance, max }: DisturbanceForm,
): Disturbances & { port: UsbPort } {
  const random = seeded(seed)
  let made = 0
  const maybe = async <T>(what: string, act: () => Promise<T>, short?: (whole: T) => T): Promise<T> => {
    if (made >= max || random() >= chance) return act()
    made++
    const kind = random()
    if (kind < 0.3) throw usbStall(port.name, what)
    if (kind < 0.6 || !short) {
      await clock.sleep(Math.floor(random() * 2000))
      return act()
    }
    return short(await act())
  }
  const cut = (bytes: Uint8Array) => bytes.subarray(0, Math.floor(random() * bytes.length))
  return {
    get made() {
      return made
    },
    port: {
      ...port,
      name: port.name,
      controlIn: (setup, length) =>
        maybe(`request ${setup.request}`, () => port.controlIn(setup, length), cut),
      controlOut: (setup, data) => maybe(`request ${setup.request}`, () => port.controlOut(setup, data)),
      transferIn: (endpoint, length) =>
        maybe(`endpoint ${endpoint}`, () => port.transferIn(endpoint, length), cut),
      transferOut: (endpoint, data) => maybe(`endpoint ${endpoint}`, () => port.transferOut(endpoint, data)),
    },
  }
}
