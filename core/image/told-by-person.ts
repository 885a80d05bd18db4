import type { ImageIdentity } from './image-identity'

/** What a named person says an image is, and where they know it from. */
export interface ImageStatement {
  familyId: string
  componentId: string
  version?: string
  hardwareMajor?: number
  by: string
  /** "The label on the stick the supplier sent". */
  from: string
  /** Milliseconds since 1970 UTC. */
  at: number
}

/** By a person's word: the last way, and a hold wherever it carries a verdict. */
export const byPerson = ({ by, from, at, ...said }: ImageStatement): ImageIdentity => ({
  ...said,
  toldBy: 'person',
  statement: { by, from, at },
})
