import { canonicalJson } from '../../kernel'
import type { OperationName } from '../schema'
import type { TeachDraft } from './draft'
import { profileOf } from './profile-of'

/** The pieces of what a profile knows, in the order in which a manual and a bench give them away. */
export const pieces = [
  { id: 'line', name: 'Line', asks: 'At which speed does it talk?' },
  { id: 'page', name: 'Version', asks: 'What do you type to see its version, and what comes back?' },
  { id: 'about', name: 'Name', asks: 'What is it called?' },
  { id: 'memory', name: 'Memory', asks: 'Where does its firmware lie?' },
  { id: 'entry', name: 'Way in', asks: 'How does it get into its bootloader?' },
  { id: 'attach', name: 'Bootloader', asks: 'How does the bootloader show that it is there?' },
  { id: 'erase', name: 'Erase', asks: 'How is memory erased?' },
  { id: 'write', name: 'Write', asks: 'How does the image go in?' },
  { id: 'check', name: 'Check', asks: 'Can it compute a checksum over what was written?' },
  { id: 'read', name: 'Read', asks: 'Can its memory be read out?' },
  { id: 'start', name: 'Start', asks: 'How is the new firmware started?' },
  { id: 'power', name: 'Supply', asks: 'Which supply does it stand on?' },
] as const
export type PieceId = (typeof pieces)[number]['id']

/** What is left out costs something; said where it is left out (LINKS: capabilities are named honestly). */
export const costOf: Partial<Record<PieceId, string>> = {
  line: 'Its port is then opened at the usual speed, and nobody knows whether that is its own.',
  page: 'Its page is then typed or pasted by hand, and the version after the write too.',
  attach: 'Nobody can tell before the first act whether the bootloader is there.',
  erase: 'Erasing is then the write’s own affair.',
  check: 'The write is then compared by reading it out, or proved by its version alone.',
  read: 'There is then no backup of what was in it, and no comparison byte by byte.',
  start: 'The new firmware is then started by switching the supply off and on.',
}

/** How much is known of a piece. */
export type PieceState = 'known' | 'not-known' | 'tried'

/** Operations by the piece that they come from. */
export const operationOfPiece: Partial<Record<PieceId, OperationName>> = {
  page: 'page',
  entry: 'enter',
  attach: 'attach',
  erase: 'erase',
  write: 'write',
  check: 'check',
  read: 'read',
  start: 'start',
}

/** Trials that came to their end, by operation: the steps and the line they were carried out with. */
export type Trials = Partial<Record<OperationName, string>>

/** An operation as it is carried out: a change of its steps or of its line makes a trial of it stale. */
export function trialMark(draft: TeachDraft, operation: OperationName): string | null {
  const [link] = profileOf(draft).links
  const drive = link?.drive
  const steps = drive?.speaks === 'script' ? drive.operations[operation] : undefined
  return steps ? canonicalJson({ steps, line: draft.line } as never) : null
}

/** What is known of each piece, and what of it was tried on a unit as it stands now. */
export function pieceStates(draft: TeachDraft, trials: Trials): { id: PieceId; state: PieceState }[] {
  return pieces.map(({ id }) => {
    const operation = operationOfPiece[id]
    const mark = operation ? trialMark(draft, operation) : null
    if (operation && mark !== null && trials[operation] === mark) return { id, state: 'tried' }
    return { id, state: isKnown(draft, id) ? 'known' : 'not-known' }
  })
}

function isKnown(draft: TeachDraft, id: PieceId): boolean {
  const { about, page, ends, lineKnown } = draft
  switch (id) {
    case 'line':
      // What a file kept of its words says nothing about its speed.
      return lineKnown
    case 'about':
      return [about.name, about.id, about.summary, about.deviceIdentifier].every((text) => text.trim() !== '')
    case 'page':
      return page !== null && ends !== null && page.facts.some(({ field }) => field === 'version.main')
    default:
      return draft[id] !== null
  }
}

/** The next piece to ask about: the first that is not known. */
export const nextPiece = (draft: TeachDraft): PieceId | null =>
  pieceStates(draft, {}).find(({ state }) => state === 'not-known')?.id ?? null

/** The piece that a fault of the profile comes from; null where it is none of theirs. */
export function pieceOfFault(at: string): PieceId | null {
  const [first, , ...rest] = at.split('.')
  switch (first) {
    case 'id':
    case 'name':
    case 'summary':
    case 'hardware':
      return 'about'
    case 'components':
      return 'memory'
    case 'entry':
      return 'entry'
    case 'power':
      return 'power'
    case 'snapshot':
      return 'page'
    case 'links': {
      const operation = rest[2]
      const found = Object.entries(operationOfPiece).find(([, name]) => name === operation)
      return (found?.[0] as PieceId | undefined) ?? 'line'
    }
    default:
      return null
  }
}

/** A short name out of a name: small letters, digits and strokes. */
export const shortName = (name: string): string =>
  name
    .normalize('NFKD')
    .replace(/\p{Mn}/gu, '')
    .toLowerCase()
    .replace(/[^a-z0-9]+/g, '-')
    .replace(/^-+|-+$/g, '')
    .slice(0, 40)
