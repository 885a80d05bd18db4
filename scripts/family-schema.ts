// Publishes the family profile's JSON Schema to docs/family.schema.json.
import { writeFileSync } from 'node:fs'
import { familySchemaText } from './family-schema-text'

writeFileSync(new URL('../docs/family.schema.json', import.meta.url), familySchemaText())
