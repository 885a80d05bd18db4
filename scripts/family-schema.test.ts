import { demoFamilies, roundsDefinition } from '@bench-wake/demo'
import { Ajv2020 } from 'ajv/dist/2020.js'
import { readFileSync } from 'node:fs'
import { describe, expect, it } from 'vitest'
import { definitionSchemaText, familySchemaText } from './family-schema-text'

const published = readFileSync(new URL('../docs/family.schema.json', import.meta.url), 'utf8')

describe('docs/family.schema.json', () => {
  it('is the schema the program reads profiles by; else run "npm run schema"', () => {
    expect(published).toBe(familySchemaText())
  })
  it('describes addresses as the hexadecimal text that profiles write', () => {
    const regions = JSON.parse(published).properties.components.items.properties.memory.properties.regions
    expect(regions.items.properties.address).toMatchObject({
      type: 'string',
      pattern: '^0x[0-9A-Fa-f]{1,8}$',
    })
    expect(demoFamilies[0]!.components[0]!.memory.regions[0]!.address).toMatch(/^0x/)
  })
})

describe('docs/definition.schema.json', () => {
  const schema = readFileSync(new URL('../docs/definition.schema.json', import.meta.url), 'utf8')
  it('is the schema the program reads definitions by; else run "npm run schema"', () => {
    expect(schema).toBe(definitionSchemaText())
  })
  it('takes the demo’s definition by another validator, and refuses one without a signature', () => {
    const check = new Ajv2020({ strict: false }).compile(JSON.parse(schema) as object)
    expect(check(roundsDefinition)).toBe(true)
    const { signature: _, ...rest } = roundsDefinition
    expect(check(rest)).toBe(false)
  })
})
