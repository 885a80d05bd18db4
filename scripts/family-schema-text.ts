import { familySchema } from '@bench-wake/core/family'
import { definitionSchema } from '@bench-wake/core/rounds'

/** The published schema of a family profile, as the file's text. */
export const familySchemaText = (): string => textOf(familySchema())

/** The published schema of a table definition, as the file's text. */
export const definitionSchemaText = (): string => textOf(definitionSchema())

const textOf = (schema: Record<string, unknown>) => `${JSON.stringify(schema, null, 2)}\n`
