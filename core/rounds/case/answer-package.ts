import { strToU8, zipSync, type Zippable } from 'fflate'
import { addressText, sha256Hex } from '../../kernel'
import { tableShape, type RevisionChanges } from '../definition'
import type { CaseAgreement } from './agreement'

/** One file of what goes to the calibrator. */
export interface PackagedLog {
  /** Kind of log, as the case calls it. */
  kind: string
  name: string
  bytes: Uint8Array
  /** Its picture, SVG; none where it could not be drawn. */
  picture: string | null
  /** What the rules say of it, heaviest first. */
  says: readonly string[]
}

/** What a round sends to whoever answers it. */
export interface PackageContent {
  agreement: CaseAgreement
  unit: { name: string; serial: string }
  round: number
  image: { name: string; sha256: string; version: string | null }
  /** Of this round's image against the one before; null for the first. */
  changes: RevisionChanges | null
  machineChanges: readonly string[]
  symptoms: string
  logs: readonly PackagedLog[]
}

/** ZIP times begin in 1980; a fixed one makes the same content the same bytes. */
const fixedTime = new Date('1980-01-01T00:00:00')

/**
 * What goes to the calibrator in one ZIP (PRACTICE K6): logs as they are, their pictures, what the image changed, what
 * changed on the machine, symptoms, and a digest of every file in the form that `sha256sum -c` reads.
 * The same content gives the same bytes.
 */
export function answerPackage(content: PackageContent): Uint8Array {
  const files: Record<string, Uint8Array> = {}
  const put = (name: string, bytes: Uint8Array) => {
    let free = name
    for (let twin = 2; files[free]; twin++) free = name.replace(/(\.[^./]*)?$/, `-${twin}$1`)
    files[free] = bytes
  }
  put('read-me.txt', strToU8(letter(content)))
  if (content.changes) put('changes.csv', strToU8(changesCsv(content.changes)))
  for (const { kind, name, bytes, picture } of content.logs) {
    put(`logs/${plain(kind)}-${plain(name)}`, bytes)
    if (picture) put(`pictures/${plain(kind)}-${plain(name)}.svg`, strToU8(picture))
  }
  const digests = Object.entries(files).map(([name, bytes]) => `${sha256Hex(bytes)}  ${name}\n`)
  put('digests.txt', strToU8(digests.join('')))
  const zippable: Zippable = Object.fromEntries(
    Object.entries(files).map(([name, bytes]) => [name, [bytes, { mtime: fixedTime, level: 6 }]]),
  )
  return zipSync(zippable)
}

/** A name that every file system takes. */
const plain = (name: string) => name.replace(/[^\p{L}\p{N}._-]+/gu, '-').replace(/^[-.]+|-+$/g, '') || 'file'

function letter(content: PackageContent): string {
  const { agreement, unit, round, image, machineChanges, symptoms, logs, changes } = content
  const list = (heading: string, items: readonly string[], none: string) => [
    '',
    heading,
    ...(items.length > 0 ? items.map((item) => `- ${item}`) : [`- ${none}`]),
  ]
  return [
    `${agreement.title}, round ${round}`,
    '',
    `For: ${agreement.calibrator}`,
    `Unit: ${unit.name}, serial ${unit.serial}`,
    `Goal: ${agreement.goal}`,
    `Image on the unit: ${image.name}${image.version === null ? '' : `, version ${image.version}`}`,
    `Its SHA-256: ${image.sha256}`,
    ...(changes
      ? [
          `It changes ${changes.bytes} bytes against the one before, in ${changes.tables.length} tables (changes.csv).`,
        ]
      : []),
    ...list('Parts that are not as built', agreement.parts, 'none'),
    ...list('Changed on the machine in this round', machineChanges, 'nothing'),
    ...list('What it does now', symptoms === '' ? [] : symptoms.split('\n'), 'nothing was said'),
    ...list(
      'Logs',
      logs.map(({ kind, name, says }) => `${kind}: ${name}. ${says.join(' ')}`),
      'none',
    ),
    '',
  ].join('\r\n')
}

/** Every cell that changed: table, place, before, after (RFC 4180). */
function changesCsv({ tables }: RevisionChanges): string {
  const rows = [['table', 'unit', 'address', 'row', 'column', 'before', 'after']]
  for (const { table, before, after } of tables) {
    const { columns } = tableShape(table)
    before.cells.forEach((cell, index) => {
      const now = after.cells[index]!
      if (cell === now) return
      rows.push([
        table.name,
        table.unit,
        addressText(table.address),
        String(after.y[Math.floor(index / columns)]),
        String(after.x[index % columns]),
        cell.toFixed(table.decimals),
        now.toFixed(table.decimals),
      ])
    })
  }
  const field = (each: string) => (/[",\r\n]/.test(each) ? `"${each.replace(/"/g, '""')}"` : each)
  return rows.map((row) => row.map(field).join(',')).join('\r\n') + '\r\n'
}
