import { readFatRoot, writeFatVolume, type CardFile, type Medium } from '@bench-wake/core/image'
import { asciiBytes, virtualClock } from '@bench-wake/core/kernel'
import type { WakeEvent } from '@bench-wake/core/run'
import { searchCard, type CardSearch } from './card-searcher'
import type { StandInState } from './stand-in'
import { unitMemory, unitMemoryOf, type UnitForm } from './unit-memory'

/** What somebody's hand did to a written card: nothing, copied its first file anew, or left an old file on it. */
export const cardHands = ['as-written', 'copied-anew', 'old-file'] as const
export type CardHand = (typeof cardHands)[number]

/** A simulated unit that takes its files from a card; the card is a volume, byte by byte. */
export interface CardUnit {
  readonly id: string
  readonly name: string
  readonly familyId: string
  readonly hand: CardHand
  /** Writes the whole card. @param volume bytes of it. */
  write(volume: Uint8Array): void
  /** A hand touches the card that was written last. */
  touch(hand: CardHand): void
  /** The card's bytes as they are now; null while nothing was ever written. */
  read(): Uint8Array | null
  /** What its screen shows, line by line. */
  shows(): string[]
  /** The person's hands as the record tells them: card in, each of its questions answered. */
  follow(event: WakeEvent): void
  state(): StandInState
}

/** The old file that a hand leaves on a card. */
const oldFile = { name: 'OLD.BIN', bytes: asciiBytes('left from last year') }

/** Where a unit is with its card: at its page, after its search, or at its question of that number. */
type Stage =
  | { at: 'page' }
  | { at: 'found'; found: CardSearch }
  | { at: 'asks'; asks: number; found: CardSearch }

/** @param form its family has a medium whose update is described. */
export function cardUnit(form: UnitForm & { medium: Medium }): CardUnit {
  const { family, medium, state } = form
  /** As it was written, and as it is now. */
  let written: Uint8Array | null = null
  let card: Uint8Array | null = null
  let hand: CardHand = 'as-written'
  let stage: Stage = { at: 'page' }
  const lines = unitMemory(
    form,
    virtualClock(async () => {}),
  )

  const unit: CardUnit = {
    id: form.id,
    name: form.name,
    familyId: form.family.id,
    get hand() {
      return hand
    },
    write(volume) {
      written = card = volume.slice()
      hand = 'as-written'
      stage = { at: 'page' }
    },
    touch(by) {
      if (!written) return
      hand = by
      card =
        hand === 'as-written' ? written : writeFatVolume(handled(readFatRoot(written), hand), written.length)
    },
    read: () => card,
    shows() {
      if (stage.at === 'asks') return [medium.update!.prompts[stage.asks]!.shows]
      if (stage.at === 'found')
        return [stage.found.takes.length > 0 ? medium.update!.searches : stage.found.shows]
      return family.snapshot
        .filter(({ by }) => by === 'menu')
        .flatMap(({ field, label, reads = `${label}: {value}` }) => {
          const value = lines.line(field)
          return value === null ? [] : [reads.replace('{value}', value)]
        })
    },
    follow({ body }) {
      if (body.type === 'run.opened' || body.type === 'leg.opened') stage = { at: 'page' }
      if (body.type !== 'prompt.answered' || !medium.update) return
      const { prompts } = medium.update
      if (body.prompt === 'media.in' && body.answer === 'done') {
        stage = {
          at: 'found',
          found: card ? searchCard(family, medium, card) : { shows: 'No card', takes: [] },
        }
        return
      }
      if (stage.at === 'page' || !body.prompt.startsWith('media.')) return
      const asks = stage.at === 'asks' ? stage.asks + 1 : 0
      // It asks nothing where it found nothing of its own.
      if (body.answer === 'other' || stage.found.takes.length === 0) stage = { at: 'page' }
      else if (asks < prompts.length) stage = { at: 'asks', asks, found: stage.found }
      else {
        takeIn(stage.found)
        stage = { at: 'page' }
      }
    },
    state: () => state,
  }

  function takeIn({ takes }: CardSearch): void {
    for (const { component, bytes } of takes) {
      const own = unitMemoryOf(family, state.flash, component)
      if (bytes.length > own.length) continue
      own.fill(family.components.find(({ id }) => id === component)!.memory.erasedByte)
      own.set(bytes)
    }
  }
  return unit
}

function handled(files: readonly CardFile[], hand: CardHand): CardFile[] {
  if (hand === 'copied-anew') return [...files.slice(1), ...files.slice(0, 1)]
  return hand === 'old-file' ? [oldFile, ...files] : [...files]
}
