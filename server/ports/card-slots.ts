import { readFatRoot } from '@bench-wake/core/image'
import { sha256Hex } from '@bench-wake/core/kernel'
import type { CardHand, CardUnit } from '@bench-wake/standins'
import { notFound } from '../problem'

/** A stand-in's card as it is now, and what the stand-in shows. */
export interface StandInCard {
  unitId: string
  name: string
  /** Null while nothing was ever written onto it. */
  card: {
    bytes: number
    hand: CardHand
    /** In the order of its directory. */
    files: { name: string; bytes: number; sha256: string }[]
  } | null
  /** Lines of its screen. */
  shows: string[]
}

/** The stand-ins that take their files from a card, by unit. */
export class CardSlots {
  constructor(private readonly units: Map<string, CardUnit>) {}

  of(unitId: string): CardUnit | undefined {
    return this.units.get(unitId)
  }

  /** A stand-in that was made while the program runs; one of the same id goes. */
  put(unit: CardUnit): void {
    this.units.set(unit.id, unit)
  }

  look(unitId: string): StandInCard | null {
    const unit = this.units.get(unitId)
    if (!unit) return null
    const bytes = unit.read()
    const card = bytes && {
      bytes: bytes.length,
      hand: unit.hand,
      files: readFatRoot(bytes).map((file) => ({
        name: file.name,
        bytes: file.bytes.length,
        sha256: sha256Hex(file.bytes),
      })),
    }
    return { unitId, name: unit.name, card, shows: unit.shows() }
  }

  /** @throws Problem `not-found` where no stand-in of this unit takes a card. */
  write(unitId: string, volume: Uint8Array): StandInCard {
    this.at(unitId).write(volume)
    return this.look(unitId)!
  }

  /** The hand of somebody else on the written card. @throws Problem `not-found`. */
  touch(unitId: string, hand: CardHand): StandInCard {
    this.at(unitId).touch(hand)
    return this.look(unitId)!
  }

  private at(unitId: string): CardUnit {
    const unit = this.units.get(unitId)
    if (!unit) throw notFound('stand-in that takes a card', unitId)
    return unit
  }
}
