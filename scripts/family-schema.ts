// Publishes the JSON Schemas of the open formats: docs/family.schema.json, docs/definition.schema.json.
import { writeFileSync } from 'node:fs'
import { definitionSchemaText, familySchemaText } from './family-schema-text'

writeFileSync(new URL('../docs/family.schema.json', import.meta.url), familySchemaText())
writeFileSync(new URL('../docs/definition.schema.json', import.meta.url), definitionSchemaText())
