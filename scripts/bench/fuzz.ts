import fc from 'fast-check'
import { mkdtempSync, rmSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { Worker } from 'node:worker_threads'
import type { Bench } from './figure'
import { holdAgainst, type ApiDocument } from '../../server/hold-answers.test-support'
import { memoryOf, startProgram } from './started'

const count = Number(process.env['BENCH_WAKE_REQUESTS'] ?? 1_000_000)
/** Sent at once. */
const abreast = 8
const adds = /^POST \/api\/(jobs|units|families|requests|images|data\/backups|drills)(\?|$)/
/** What stands in an address; a thing without any text of its own as JSON. */
const asText = (value: unknown): string => (typeof value === 'object' ? JSON.stringify(value) : String(value))
/** Requests that are made at a time. */
const batch = 20_000
/** An answer that does not come is none of this bench's; a stream is let go of as soon as it is there, ms. */
const patienceMs = 20_000

interface Schema {
  type?: string
  enum?: unknown[]
  const?: unknown
  anyOf?: Schema[]
  oneOf?: Schema[]
  items?: Schema | Schema[]
  prefixItems?: Schema[]
  properties?: Record<string, Schema>
  required?: string[]
  minimum?: number
  maximum?: number
  additionalProperties?: Schema | boolean
}
interface Operation {
  parameters?: { name: string; in: string; schema: Schema }[]
  requestBody?: { content: Record<string, { schema: Schema }> }
}
interface Sent {
  method: string
  path: string
  type?: string
  body?: string | FormData | ReadableStream
}

/** Names that break what looks them up, and figures that break what works with them. */
const oddTexts = [
  '',
  ' ',
  'constructor',
  '__proto__',
  'null',
  '../../etc/passwd',
  '\u0000',
  '%00',
  "' or 1=1 --",
  '🜁',
  '-1',
  '1e999',
  'NaN',
  '2026-02-30',
  '0x',
  '12,6 V',
]
const oddNumbers = [
  0,
  -0,
  -1,
  1,
  0.1,
  1e-300,
  255,
  256,
  65_536,
  2 ** 31,
  2 ** 32,
  2 ** 53,
  1e21,
  1e308,
  -1e308,
]

const anyText = fc.oneof(
  fc.constantFrom(...oddTexts),
  fc.string({ maxLength: 40 }),
  fc.string({ maxLength: 400, unit: 'binary' }),
)
const anyNumber = fc.oneof(
  fc.constantFrom(...oddNumbers),
  fc.integer(),
  fc.double({ noNaN: true, noDefaultInfinity: true }),
)
const anyValue = fc.oneof(
  { weight: 3, arbitrary: anyText },
  anyNumber,
  fc.boolean(),
  fc.constant(null),
  fc.jsonValue({ maxDepth: 3 }),
)

/** What a schema describes, and now and then what it does not. */
function valueOf(schema: Schema, known: readonly string[]): fc.Arbitrary<unknown> {
  const right = rightValue(schema, known)
  return fc.oneof({ weight: 8, arbitrary: right }, { weight: 1, arbitrary: anyValue })
}
function rightValue(schema: Schema, known: readonly string[]): fc.Arbitrary<unknown> {
  if (schema.const !== undefined) return fc.constant(schema.const)
  if (schema.enum) return fc.constantFrom(...schema.enum)
  const options = schema.anyOf ?? schema.oneOf
  if (options?.length) return fc.oneof(...options.map((each) => valueOf(each, known)))
  switch (schema.type) {
    case 'string':
      return fc.oneof(fc.constantFrom(...known), anyText, fc.constantFrom('2026-11-24', '12.6', '5 A'))
    case 'integer':
    case 'number':
      return fc.oneof(
        fc.double({ min: schema.minimum ?? -1e6, max: schema.maximum ?? 1e6, noNaN: true }),
        fc.integer({
          min: Math.ceil(Math.max(schema.minimum ?? 0, -1e6)),
          max: Math.floor(Math.min(schema.maximum ?? 1000, 1e6)),
        }),
        anyNumber,
      )
    case 'boolean':
      return fc.boolean()
    case 'null':
      return fc.constant(null)
    case 'array': {
      const items = schema.prefixItems ?? (Array.isArray(schema.items) ? schema.items : undefined)
      if (items) return fc.tuple(...items.map((each) => valueOf(each, known)))
      return fc.array(valueOf((schema.items as Schema | undefined) ?? {}, known), { maxLength: 4 })
    }
    case 'object': {
      const properties = Object.entries(schema.properties ?? {})
      if (properties.length === 0)
        return fc.dictionary(fc.oneof(fc.constantFrom(...known), anyText), anyValue, { maxKeys: 6 })
      const required = (schema.required ?? []).filter((name) => properties.some(([own]) => own === name))
      return fc.record(Object.fromEntries(properties.map(([name, each]) => [name, valueOf(each, known)])), {
        requiredKeys: required as never[],
      })
    }
    default:
      return anyValue
  }
}

/** Requests over every path of the document, right ones and wrong ones. */
function requestOf(
  document: { paths: Record<string, Record<string, Operation>> },
  known: readonly string[],
): fc.Arbitrary<Sent> {
  const inPath = fc.oneof({ weight: 3, arbitrary: fc.constantFrom(...known) }, anyText)
  const all = Object.entries(document.paths).flatMap(([path, methods]) =>
    Object.entries(methods).flatMap(([method, { parameters = [], requestBody }]) => {
      // Bringing back a backup ends the program, as it should.
      if (path === '/api/data/restore') return []
      const params = parameters.filter(({ in: where }) => where === 'path')
      const queries = parameters.filter(({ in: where }) => where === 'query')
      const schema = requestBody?.content['application/json']?.schema
      const isForm = requestBody?.content['multipart/form-data'] !== undefined
      return [
        fc
          .record({
            params: fc.tuple(...params.map(() => inPath)),
            query: fc.tuple(...queries.map(({ schema: each }) => fc.option(valueOf(each, known)))),
            json: schema ? valueOf(schema, known) : anyValue,
            spoil: fc.integer({ min: 0, max: 19 }),
            file: fc.uint8Array({ maxLength: 300 }),
          })
          .map(({ params: own, query, json, spoil, file }): Sent => {
            let filled = path
            for (const [at, { name }] of params.entries())
              filled = filled.replace(
                `{${name}}`,
                encodeURIComponent(String(own[at]).replaceAll(/[\ud800-\udfff]/g, '')),
              )
            const search = new URLSearchParams(
              queries.flatMap(({ name }, at) => (query[at] === null ? [] : [[name, asText(query[at])]])),
            ).toString()
            const sent: Sent = { method: method.toUpperCase(), path: search ? `${filled}?${search}` : filled }
            // A look at the head alone is a request of its own (RFC 9110, clause 9.3.2).
            if (method === 'get') return spoil < 3 ? { ...sent, method: 'HEAD' } : sent
            if (isForm && spoil > 2) {
              const form = new FormData()
              form.append('file', new File([file as BlobPart], String(own[0] ?? 'x.bin')))
              return { ...sent, body: form }
            }
            const text = JSON.stringify(json) ?? 'null'
            return {
              ...sent,
              type: spoil === 0 ? 'text/plain' : spoil === 1 ? 'multipart/form-data' : 'application/json',
              body:
                spoil === 2
                  ? text.slice(0, -1)
                  : spoil === 3
                    ? nested(file.length * 500)
                    : spoil < 8
                      ? inChunks(text)
                      : text,
            }
          }),
      ]
    }),
  )
  return fc.oneof(...all)
}

/** Brackets within brackets, as deep as the size of a body allows. */
const nested = (depth: number) => `${'['.repeat(depth)}${']'.repeat(depth)}`

/** A body whose length is not told: it goes in chunks (RFC 9112, clause 7.1). */
const inChunks = (text: string) => new Blob([text]).stream()

/** Text that says JSON and is none is no answer of the document either. */
function parsed(text: string): unknown {
  try {
    return JSON.parse(text) as unknown
  } catch {
    return undefined
  }
}

/** Requests at random over every public path: none may end the program, fill its memory, or be answered by its own failure. */
export const fuzz: Bench = {
  name: 'fuzz',
  async measure() {
    const folder = mkdtempSync(join(tmpdir(), 'bench-wake-fuzz-'))
    const { child, address } = await startProgram(folder)
    const memory = () => memoryOf(child)
    const ask = async (path: string) => (await fetch(address + path)).json() as Promise<any> // eslint-disable-line @typescript-eslint/no-explicit-any
    const known: string[] = []
    for (const list of ['jobs', 'units', 'images', 'families', 'ports', 'adapters', 'sums'])
      for (const each of await ask(`/api/${list}`)) known.push(String(each.id ?? each.job?.id))
    known.push(...(await ask('/api/logbook')).map(({ runId }: { runId: string }) => runId))
    const document = await ask('/api/openapi.json')
    const seed = Number(process.env['BENCH_WAKE_SEED'] ?? Math.floor(Math.random() * 2 ** 31))
    const made = requestOf(document, known)
    let requests: Sent[] = []
    /** The next request; a batch is made when the one before is through, each of its own seed. */
    const nextRequest = () => {
      const at = next++
      if (at % batch === 0) {
        requests = fc.sample(made, { numRuns: Math.min(count - at, batch), seed: seed + at / batch })
        if (at > 0)
          console.error(
            `  ${at} of ${count}: ${failed.length} failures, ${Math.round(max - before)} MiB more`,
          )
      }
      return requests[at % batch]!
    }
    const held = holdAgainst(document as ApiDocument)
    const failed: string[] = []
    const differ = new Set<string>()
    const slow: number[] = []
    let done = 0
    let next = 0
    const before = memory()
    let max = before
    const send = async ({ method, path, type, body }: Sent) => {
      const leave = new AbortController()
      const timer = setTimeout(() => leave.abort(), patienceMs)
      try {
        const answer = await fetch(address + path, {
          method,
          signal: leave.signal,
          ...(type ? { headers: { 'content-type': type } } : {}),
          ...(body === undefined ? {} : { body, duplex: 'half' }),
        } as RequestInit)
        if (answer.status === 500)
          failed.push(
            `${method} ${path} ${String(body).slice(0, 300)}: ${(await answer.text()).slice(0, 300)}`,
          )
        else if (answer.headers.get('content-type')?.startsWith('text/event-stream')) leave.abort()
        else {
          const told = answer.headers.get('content-type') ?? ''
          const text = await answer.text()
          const differs =
            method === 'HEAD' ? null : held(method, path, answer.status, told, () => parsed(text))
          if (differs) differ.add(differs)
        }
      } catch (error) {
        if (!leave.signal.aborted && child.exitCode !== null) throw error
      } finally {
        clearTimeout(timer)
        done++
      }
    }
    const worker = async () => {
      while (next < count && child.exitCode === null) {
        const request = nextRequest()
        // What adds to the data is sent seldom: a bench of a hundred thousand jobs is another question.
        if (adds.test(`${request.method} ${request.path}`) && next % 40 !== 0) continue
        await send(request)
      }
    }
    // Making requests keeps this thread busy for a second at a time; that is no part of an answer.
    const health = new Worker(new URL('./health-watch.mjs', import.meta.url), { workerData: { address } })
    health.on('message', (tookMs: number) => slow.push(tookMs))
    const watch = setInterval(() => {
      max = Math.max(max, child.exitCode === null ? memory() : 0)
    }, 200)
    await Promise.all(Array.from({ length: abreast }, worker))
    clearInterval(watch)
    await health.terminate()
    const ended = child.exitCode !== null
    child.kill('SIGKILL')
    rmSync(folder, { recursive: true, force: true })
    for (const line of [...new Set(failed)].slice(0, 20)) console.log(`  ${line}`)
    for (const line of [...differ].slice(0, 20)) console.log(`  ${line}`)
    slow.sort((a, b) => a - b)
    const late = slow[Math.floor(slow.length * 0.99)] ?? 0
    return [
      {
        name: `${done} requests at random (seed ${seed}) answered by a failure of the program`,
        value: failed.length + (ended ? 1 : 0),
        unit: 'requests',
        wanted: 'none',
        holds: failed.length === 0 && !ended,
      },
      {
        name: 'answers that are not as the OpenAPI document has them, by kind',
        value: differ.size,
        unit: 'kinds',
        wanted: 'none',
        holds: differ.size === 0,
      },
      {
        name: 'memory that they took, beyond the start',
        value: max - before,
        unit: 'MiB',
        reference: 200,
        ratio: (max - before) / 200,
        wanted: 'below 1',
        holds: max - before < 200,
      },
      {
        name: 'health meanwhile, 99th of a hundred',
        value: late,
        unit: 'ms',
        reference: 250,
        ratio: late / 250,
        wanted: 'below 1',
        holds: late < 250,
      },
    ]
  },
}
