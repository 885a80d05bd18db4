import { applicationRegions } from '../../family'
import { identifyImage } from '../../image'
import { dayAt, equalBytes, groupedNumber, hexText, Problem, sha256Hex, type Finding } from '../../kernel'
import { linkWidthBits, readsChip } from '../../link'
import { judgeBackup } from '../../proof'
import { lineOf } from '../../unit'
import type { StepAct } from '../step-context'
import { writes } from '../task'

/** Where reading out is all that was asked, what is not recognised is kept all the same, and told. */
const toldAndKept = (finding: Finding): Finding => ({
  ...finding,
  level: 'note',
  remedy: 'It is kept as it was read. Note at the unit what you know of it.',
})

/**
 * A chip that told what it is before it was read answers for itself: where every byte of it is erased, it is blank. Over
 * a link that only dumps memory the same bytes may be a lock or a loose wire, and stay against it.
 */
const blankChip = (finding: Finding, bytes: Uint8Array, erasedByte: number, reads: number): Finding =>
  bytes[0] === erasedByte
    ? {
        rule: 'backup-blank',
        level: 'note',
        says: `It is blank: each of its ${groupedNumber(bytes.length)} bytes reads ${hexText(erasedByte)}, ${reads === 2 ? 'twice' : 'once'}.`,
        because: 'Nothing is in it that could be kept.',
      }
    : finding

/** Progress of a reading is recorded about so many times. */
const recordsOfReading = 200

/**
 * PRACTICE G1, G5: reads the original out before the first write, twice, judges it, and keeps it under a name that will
 * still mean something. What is read later, after a write of this bench, is named as found.
 */
export const backup: StepAct = async (bench) => {
  const { family, component, loader, link, wake, step, releases, unit, clock } = bench
  const note = (says: string) => wake.record({ type: 'note', step, says })
  const waiver = releases.find(({ rule }) => rule === 'backup')
  const asked = !writes(bench)
  if (waiver && !asked) return note(`No backup: waived by ${waiver.name}, ${waiver.reason}.`)
  const once = releases.find(({ rule }) => rule === 'backup-once')
  if (once) await note(`Read once: ${once.name}, ${once.reason}.`)
  const reads = once ? 1 : 2
  if (bench.changed && !asked) return note('No backup: what is in the unit now is not what it came with.')
  if (!loader.read) {
    if (asked) throw cannotRead(family.name)
    return note('No backup: this link cannot read the memory.')
  }
  const read = loader.read.bind(loader)
  const regions = applicationRegions(component)
  const total = reads * regions.reduce((sum, { length }) => sum + length, 0)
  let before = 0
  let told = 0
  const readOut = async (range: { address: number; length: number }) => {
    // Nothing hangs on a byte that was only read: a record of each would slow the reading down.
    const bytes = await read(range, ({ done }) => {
      const reached = before + done
      if (reached - told < total / recordsOfReading && reached < total) return undefined
      told = reached
      return bench.report({ done: reached, total, unit: 'bytes', retries: 0 })
    })
    before += range.length
    return bytes
  }
  const version = bench.before && lineOf(bench.before, `version.${component.id}`)
  const day = dayAt(clock.now())
  for (const { address, length, name: region } of regions) {
    const first = await readOut({ address, length })
    const second = once ? null : await readOut({ address, length })
    const equalTwice = second && equalBytes(first, second)
    const memory = [{ address, bytes: first }]
    const findings = judgeBackup({
      bytes: first,
      wanted: length,
      erasedByte: component.memory.erasedByte,
      equalTwice,
      identity: identifyImage(memory, [family]),
      familyId: family.id,
      labelled: component.identity !== undefined || component.versionText !== undefined,
    }).map((finding) => {
      if (!asked) return finding
      if (finding.rule === 'backup-unknown') return toldAndKept(finding)
      return finding.rule === 'backup-empty' && equalTwice !== false && link && readsChip(link)
        ? blankChip(finding, first, component.memory.erasedByte, reads)
        : finding
    })
    const blank = findings.some(({ rule }) => rule === 'backup-blank')
    const part = regions.length > 1 ? `, ${region}` : ''
    const what = bench.firstHere === false ? 'as found' : 'original'
    const name = `${unit.name ?? unit.serial}, ${component.name.toLowerCase()}${version ? ` ${version}` : ''}${part}, ${what}, ${day}`
    const facts = {
      name,
      ...(bench.pieces.length > 1 ? { component: component.id } : {}),
      address,
      bytes: first.length,
      ...(link ? { widthBits: linkWidthBits(link) } : {}),
      sha256: sha256Hex(first),
      reads,
    }
    const against = findings.find(({ level }) => level === 'stop')
    if (against) {
      await wake.record({ type: 'backup', step, ...facts, findings })
      throw new Problem({
        kind: 'backup-bad',
        thing: name,
        says: against.says.replace(/\.$/, ''),
        found: against.because,
        remedy: `Nothing was written. ${against.remedy ?? ''}`.trim(),
      })
    }
    const kept = blank ? undefined : await bench.keepBackup?.({ name, address, bytes: first })
    await wake.record({
      type: 'backup',
      step,
      ...facts,
      ...(kept ? { imageId: kept.imageId } : {}),
      findings: [...findings, ...(kept?.findings ?? [])],
    })
  }
}

const cannotRead = (thing: string) =>
  new Problem({
    kind: 'cannot-read',
    thing,
    says: 'this link cannot read the memory',
    remedy: 'Read it with a programmer, and bring the file to the shelf.',
  })
