import { toJsonSchema } from '@valibot/to-json-schema'
import { FamilyProfile } from './schema'

/**
 * The JSON Schema (draft 2020-12) of a family profile as it is written, addresses as text, made from the program's
 * own schema. Trimming and turning "0x…" into a number happen on reading; the document's form stands before them.
 */
export function familySchema(): Record<string, unknown> {
  const { $schema, ...rest } = toJsonSchema(FamilyProfile, {
    target: 'draft-2020-12',
    typeMode: 'input',
    ignoreActions: ['trim', 'transform'],
  })
  return { $schema, $id: 'urn:bench-wake:family:1', title: 'Family profile', ...rest }
}
