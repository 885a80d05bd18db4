import type { ImageStatement } from '@bench-wake/core/image'
import { Problem } from '@bench-wake/core/kernel'
import { eq } from 'drizzle-orm'
import type { Database } from '../db/open'
import { imageStatements } from '../db/schema'
import { getFamily } from './families'

/** What persons say of images, by the image's id. */
export async function allStatements(db: Database): Promise<Map<string, ImageStatement>> {
  const rows = await db.select().from(imageStatements)
  return new Map(
    rows.map(({ imageId, familyId, componentId, version, hardwareMajor, by, origin, at }) => [
      imageId,
      {
        familyId,
        componentId,
        ...(version === null ? {} : { version }),
        ...(hardwareMajor === null ? {} : { hardwareMajor }),
        by,
        from: origin,
        at,
      },
    ]),
  )
}

/**
 * Keeps what a person says an image is; it takes the place of what was said before.
 * @throws Problem `not-found` for a family; `input` for a part or a revision that its profile does not have.
 */
export async function sayImage(db: Database, imageId: string, said: ImageStatement): Promise<void> {
  const family = await getFamily(db, said.familyId)
  const no = (at: string, says: string, expected: string, found: string) =>
    new Problem({ kind: 'input', place: { at }, says, expected, found, remedy: 'Choose one of these.' })
  const { componentId, hardwareMajor } = said
  if (!family.components.some(({ id }) => id === componentId)) {
    const parts = family.components.map(({ id }) => id).join(' or ')
    throw no('componentId', `a ${family.name} has no such part`, parts, componentId)
  }
  const majors = family.hardware.revisions.map(({ major }) => major)
  if (hardwareMajor !== undefined && !majors.includes(hardwareMajor)) {
    throw no(
      'hardwareMajor',
      `a ${family.name} has no such hardware`,
      majors.join(' or '),
      String(hardwareMajor),
    )
  }
  const { familyId, version, by, from, at } = said
  const row = {
    imageId,
    familyId,
    componentId,
    version: version ?? null,
    hardwareMajor: hardwareMajor ?? null,
    by,
    origin: from,
    at,
  }
  await db
    .insert(imageStatements)
    .values(row)
    .onConflictDoUpdate({ target: imageStatements.imageId, set: row })
}

/** Takes back what a person said of an image. */
export async function unsayImage(db: Database, imageId: string): Promise<void> {
  await db.delete(imageStatements).where(eq(imageStatements.imageId, imageId))
}
