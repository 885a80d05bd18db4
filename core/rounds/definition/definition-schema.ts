import { toJsonSchema } from '@valibot/to-json-schema'
import { TableDefinition } from './table-definition'

/** The JSON Schema (draft 2020-12) of a table definition as it is written, addresses as text. */
export function definitionSchema(): Record<string, unknown> {
  const { $schema, ...rest } = toJsonSchema(TableDefinition, {
    target: 'draft-2020-12',
    typeMode: 'input',
    errorMode: 'ignore',
    ignoreActions: ['trim', 'transform', 'check'],
  })
  return { $schema, $id: 'urn:bench-wake:definition:1', title: 'Table definition', ...rest }
}
