import { Ajv2020, type ValidateFunction } from 'ajv/dist/2020.js'

interface Described {
  content?: Record<string, { schema?: object }>
  $ref?: string
}
export interface ApiDocument {
  paths: Record<string, Record<string, { responses: Record<string, Described> }>>
  components: { responses: Record<string, Described>; schemas: Record<string, object> }
}

/** Objects that are described member by member have no other members: the document names all that is answered. */
function closed(schema: unknown): unknown {
  if (Array.isArray(schema)) return schema.map(closed)
  if (typeof schema !== 'object' || schema === null) return schema
  const own = Object.fromEntries(Object.entries(schema).map(([name, value]) => [name, closed(value)]))
  return own['type'] === 'object' && own['properties'] && own['additionalProperties'] === undefined
    ? { ...own, additionalProperties: false }
    : own
}

/**
 * Holds answers against the document, by a JSON Schema library that shares nothing with the schemas.
 * @returns what says how an answer differs from what the document promises, or null where it is as promised.
 */
export function holdAgainst(document: ApiDocument) {
  // Each schema is compiled once, and called where it is named: written out at each place it takes seconds.
  const ajv = new Ajv2020({
    allErrors: true,
    strict: false,
    validateFormats: false,
    inlineRefs: false,
    code: { optimize: false },
  })
  ajv.addSchema({ $id: 'api', components: closed(document.components) as object })
  const operations = Object.entries(document.paths).map(([path, methods]) => ({
    methods,
    path,
    // A path that is written out goes before one with a part left open.
    open: path.split('{').length,
    pattern: new RegExp(`^${path.replace(/\{[^}]+\}/g, '[^/]+')}/?$`),
  }))
  operations.sort((a, b) => a.open - b.open)
  const compiled = new Map<string, ValidateFunction>()
  const validate = (key: string, schema: object) => {
    const known = compiled.get(key)
    if (known) return known
    const text = JSON.stringify(closed(schema)).replaceAll('"#/components/', '"api#/components/')
    const made = ajv.compile(JSON.parse(text) as object)
    compiled.set(key, made)
    return made
  }
  return (method: string, path: string, status: number, type: string, body: () => unknown): string | null => {
    const bare = path.replace(/\?.*$/, '')
    const found = operations.find((each) => each.pattern.test(bare) && each.methods[method.toLowerCase()])
    // What is no path of ours is answered as a problem, too.
    const responses = found?.methods[method.toLowerCase()]!.responses ?? {
      default: { $ref: '#/components/responses/Problem' },
    }
    const which = Object.hasOwn(responses, String(status)) ? String(status) : 'default'
    const name = `${method} ${found?.path ?? bare} ${status}`
    if (which === 'default' && status < 400) return `${name} is not described`
    const named = responses[which]
    const described = named?.$ref ? document.components.responses[named.$ref.split('/').pop()!] : named
    const bareType = type.replace(/;.*$/, '')
    const media = Object.entries(described?.content ?? {}).find(([each]) =>
      each.endsWith('/*') ? bareType.startsWith(each.slice(0, -1)) : each === bareType,
    )
    if (!media) return `${name} answers ${type}, which is not described`
    const { schema } = media[1]
    if (!schema) return null
    const check = validate(`${found?.path ?? ''} ${method} ${which} ${media[0]}`, schema)
    if (check(body())) return null
    const faults = check.errors!.map(
      ({ instancePath, message, params }) =>
        `${instancePath || 'the answer'} ${message} ${JSON.stringify(params)}`,
    )
    return `${name}: ${[...new Set(faults)].slice(0, 12).join('; ')}`
  }
}
