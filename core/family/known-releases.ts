import * as v from 'valibot'
import { KnownRelease } from './schema'

/** What a list of releases reads as: those that can be kept, and what is wrong with each other row. */
export interface ReadReleases {
  releases: KnownRelease[]
  /** `row` counts from 1, without a heading. */
  faults: { row: number; says: string }[]
}

/** What suppliers call the columns. */
const columns: Record<string, keyof KnownRelease> = {
  sha256: 'sha256',
  'sha-256': 'sha256',
  digest: 'sha256',
  checksum: 'sha256',
  version: 'version',
  release: 'version',
  component: 'component',
  part: 'component',
  hardware: 'hardware',
  date: 'date',
  released: 'date',
  notes: 'notes',
  remarks: 'notes',
}

/** Reads a list of releases as rows of a table by its heading, or as objects of a JSON list. Nothing of a faulty row is taken. */
export function readReleases(rows: readonly unknown[]): ReadReleases {
  const read: ReadReleases = { releases: [], faults: [] }
  const rowOf = new Map<string, number>()
  rows.forEach((row, index) => {
    const parsed = v.safeParse(KnownRelease, tidied(row))
    if (!parsed.success) {
      const [issue] = parsed.issues
      const at = v.getDotPath(issue)
      const says = issue.received === 'undefined' ? 'it is missing' : issue.message
      read.faults.push({ row: index + 1, says: at ? `${at}: ${says}` : says })
      return
    }
    const before = rowOf.get(parsed.output.sha256)
    if (before !== undefined) {
      read.faults.push({ row: index + 1, says: `row ${before} has this digest too` })
      return
    }
    rowOf.set(parsed.output.sha256, index + 1)
    read.releases.push(parsed.output)
  })
  return read
}

/** A row with the names that this program knows, empty cells left out, digest in lower case. */
function tidied(row: unknown): unknown {
  if (row === null || typeof row !== 'object') return row
  const release: Record<string, unknown> = {}
  for (const [name, value] of Object.entries(row)) {
    const key = columns[name.trim().toLowerCase()]
    const text = typeof value === 'string' ? value.trim() : value
    if (!key || text === '' || text === null || text === undefined) continue
    release[key] = key === 'sha256' ? lower(text) : key === 'hardware' ? numberIn(text) : text
  }
  return release
}

const lower = (value: unknown) =>
  typeof value === 'string' ? value.toLowerCase().replace(/^sha256:/, '') : value
const numberIn = (value: unknown) =>
  typeof value === 'string' && /^\d+$/.test(value) ? Number(value) : value
