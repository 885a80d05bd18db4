import type { Family } from '../family'
import type { Level } from '../kernel'
import type { UnitFacts } from '../unit'
import { worstOf } from './judge-fit'
import type { FitImage, FitQuestion, UnitAnswers } from './question'
import { fitRules, standingRules } from './rules'
import { issuedSerial } from './rules/issued-serial'

/** A column of the matrix: a unit, or a hardware revision standing for all units of it. */
export interface MatrixColumn {
  familyId: string
  unit: UnitFacts
  answers?: UnitAnswers
}

/** The finding that decides a cell of the matrix. */
export interface MatrixReason {
  level: Level
  rule: string
  says: string
}

/**
 * Every image against every column. A cell is an index into `reasons`, so that ten million cells are ten million
 * 16-bit numbers; row after row. Columns that are alike in all that fit asks share one judgement, and so do rows of
 * another family, which are refused by one and the same reason.
 */
export interface FitMatrix {
  columns: number
  rows: number
  cells: Uint16Array
  reasons: MatrixReason[]
}

/**
 * Judges images against units or hardware revisions: the heaviest finding of each pair.
 * @param standing true for hardware revisions, whose version nobody asks about.
 */
export function fitMatrix(
  images: readonly FitImage[],
  columns: readonly MatrixColumn[],
  families: readonly Family[],
  standing = false,
): FitMatrix {
  const byId = new Map(families.map((family) => [family.id, family]))
  const reasons: MatrixReason[] = []
  const known = new Map<string, number>()
  const indexOf = (reason: MatrixReason) => {
    const key = `${reason.rule}\n${reason.says}`
    let index = known.get(key)
    if (index === undefined) {
      // Past 65 535 different sentences the rest share their rule's shortest form.
      index = reasons.length < 0xffff ? reasons.push(reason) - 1 : 0xfffe
      known.set(key, index)
    }
    return index
  }
  const classes = new Map<string, { column: MatrixColumn; family: Family; members: Member[] }>()
  columns.forEach((column, index) => {
    const family = byId.get(column.familyId)
    if (!family) return
    const key = classKey(column)
    const alike = classes.get(key)
    const member = { at: index, unit: column.unit }
    if (alike) alike.members.push(member)
    else classes.set(key, { column, family, members: [member] })
  })
  const byFamily = new Map<string, (typeof classes extends Map<string, infer Class> ? Class : never)[]>()
  for (const each of classes.values()) {
    byFamily.set(each.family.id, [...(byFamily.get(each.family.id) ?? []), each])
  }
  const rules = standing ? standingRules : fitRules
  const cells = new Uint16Array(images.length * columns.length)
  // What is said of two serials hangs on these alone, and a thousand images may be for one.
  const saidOf = new Map<string, Map<string, number>>()
  const said = (question: FitQuestion, unit: UnitFacts) => {
    const key = `${question.family.id}\n${question.image.identity!.serial}`
    let row = saidOf.get(key)
    if (!row) saidOf.set(key, (row = new Map()))
    let index = row.get(unit.serial!)
    if (index === undefined) {
      const { level, says } = issuedSerial.judge({ ...question, unit })!
      row.set(unit.serial!, (index = indexOf({ level, rule: issuedSerial.id, says })))
    }
    return index
  }
  const otherFamily = new Map<string, number>()
  const nobody = indexOf({ level: 'stop', rule: 'image-known', says: 'No profile knows this image.' })
  images.forEach((image, row) => {
    const at = row * columns.length
    const identity = image.identity
    if (!identity) {
      cells.fill(nobody, at, at + columns.length)
      return
    }
    let other = otherFamily.get(identity.familyId)
    if (other === undefined) {
      const name = byId.get(identity.familyId)?.name ?? identity.familyId
      other = indexOf({
        level: 'stop',
        rule: 'image-known',
        says: `The image is for another family: ${name}.`,
      })
      otherFamily.set(identity.familyId, other)
    }
    cells.fill(other, at, at + columns.length)
    for (const { column, family, members } of byFamily.get(identity.familyId) ?? []) {
      const component = family.components.find(({ id }) => id === identity.componentId)
      if (!component) continue
      const question: FitQuestion = {
        family,
        component,
        unit: column.unit,
        image,
        ...(column.answers ? { answers: column.answers } : {}),
      }
      const judge = (unit: UnitFacts) => {
        const { level, rule, says } = worstOf({ ...question, unit }, rules)
        return { index: indexOf({ level, rule, says }), rule }
      }
      if (identity.serial === undefined || !members.some(({ unit }) => unit.serial !== undefined)) {
        const { index } = judge(column.unit)
        for (const { at: member } of members) cells[at + member] = index
        continue
      }
      // An image for one serial: units of other serials differ only in what the sentence about the serial says.
      const other = members.find(({ unit }) => unit.serial !== undefined && unit.serial !== identity.serial)
      const shared = other && judge(other.unit)
      for (const { at: member, unit } of members) {
        if (!shared || unit.serial === undefined || unit.serial === identity.serial) {
          cells[at + member] = judge(unit).index
        } else cells[at + member] = shared.rule === issuedSerial.id ? said(question, unit) : shared.index
      }
    }
  })
  return { columns: columns.length, rows: images.length, cells, reasons }
}

/** A column with its place in the row. */
interface Member {
  at: number
  unit: UnitFacts
}

/** All that fit asks of a unit but its serial, which only images issued for one ask about. */
function classKey({ familyId, unit, answers }: MatrixColumn): string {
  const { readAt: _at, source: _source, serial: _serial, batch: _batch, ...asked } = unit
  return JSON.stringify([familyId, asked, answers ?? null])
}

/** Hardware revisions, and where the family has models each of them, as columns of a matrix. */
export function revisionColumns(
  families: readonly Family[],
): (MatrixColumn & { familyName: string; says: string })[] {
  return families.flatMap((family) => {
    const models = family.hardware.models?.map(({ id }) => id) ?? [undefined]
    return family.hardware.revisions.flatMap((revision) =>
      models.map((model) => ({
        familyId: family.id,
        familyName: family.name,
        says: [revision.name, model].filter(Boolean).join(', '),
        unit: {
          deviceIdentifier: family.hardware.deviceIdentifier,
          hardware: revision.name,
          hardwareMajor: revision.major,
          ...(model === undefined ? {} : { model }),
          versions: {},
        },
      })),
    )
  })
}
