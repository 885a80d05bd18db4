import { familySchema } from '@bench-wake/core/family'

/** The published schema of a family profile, as the file's text. */
export function familySchemaText(): string {
  return `${JSON.stringify(familySchema(), null, 2)}\n`
}
