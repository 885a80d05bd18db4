import { FamilyProfile } from '@bench-wake/core/family'
import { toJsonSchema } from '@valibot/to-json-schema'

/** The JSON Schema of a family profile as it is written (addresses as text), made from the program's own schema. */
export function familySchema(): string {
  const schema = toJsonSchema(FamilyProfile, {
    target: 'draft-2020-12',
    typeMode: 'input',
    // Trimming and turning "0x…" into a number happen on reading; the document's form is what stands before them.
    ignoreActions: ['trim', 'transform'],
  })
  const { $schema, ...rest } = schema
  return `${JSON.stringify({ $schema, $id: 'urn:bench-wake:family:1', title: 'Family profile', ...rest }, null, 2)}\n`
}
