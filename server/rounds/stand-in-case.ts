import { standInPort } from '@bench-wake/core/link'
import { Problem } from '@bench-wake/core/kernel'
import {
  errorMap,
  joinBinned,
  readCsvLog,
  tableShape,
  tableValues,
  type CalibrationTable,
} from '@bench-wake/core/rounds'
import {
  motorHands,
  motorLogCsv,
  nextVersion,
  pedalFor,
  relabel,
  runMotor,
  tuneTable,
} from '@bench-wake/standins'
import { rm, writeFile } from 'node:fs/promises'
import { join } from 'node:path'
import type { Services } from '../app'
import { newId } from '../new-id'
import { readBlob } from '../store/blobs'
import { openCaseView, takeRevision } from '../store/case-deeds'
import { takeLog } from '../store/case-logs'
import type { CaseLogRow, CaseView } from '../store/cases'
import { getDefinition } from '../store/definitions'
import { getFamily } from '../store/families'

/*
 * Practice for rounds: a stand-in is driven by a motor model with the very table that is written in it, and a stand-in
 * calibrator answers its logs. Neither is offered where the unit is a real one.
 */

/** Whether a case can be practised: its unit is a stand-in, and its image has a current table over speed and pedal. */
export const isStandIn = ({ room }: Pick<Services, 'room'>, unitId: string): boolean =>
  room.ports.standIn(standInPort(unitId)) !== undefined

/** Drives the stand-in for a kind of log and takes the log in. @throws Problem `no-stand-in`, `no-model`. */
export async function logStandIn(
  services: Services,
  caseId: string,
  form: { logKind: string; by: string },
): Promise<CaseLogRow> {
  const { db, shelf, worker, incoming } = services
  const view = await openCaseView(db, caseId)
  refuseReal(services, view)
  const { round, table } = await modelOf(services, view)
  const { memory } = await shelf.open(round.imageId)
  const rows = runMotor(tableValues(memory, table)!, {
    ...pedalFor(form.logKind),
    hertz: 20,
    celsius: 12,
    fouled: 0,
    seed: view.logs.length + 1,
  })
  const path = join(incoming, newId('log'))
  try {
    await writeFile(path, motorLogCsv(rows, (Date.now() / 1000) % 86_400), 'latin1')
    const name = `${form.logKind}-${round.number}-${view.logs.length + 1}.csv`
    return await takeLog(db, worker, caseId, { path, name, ...form })
  } finally {
    await rm(path, { force: true })
  }
}

/** The hands at a stand-in while it is recorded: pedal and helm as the kind of log asks. Nothing for a real unit. */
export async function handsFor(
  services: Services,
  caseId: string,
  portId: string,
  logKind: string,
): Promise<{ hands?: () => void; after?: () => void }> {
  const unit = services.room.ports.standIn(portId)
  if (!unit?.drive) return {}
  const view = await openCaseView(services.db, caseId)
  const { round, table } = await modelOf(services, view)
  const values = tableValues((await services.shelf.open(round.imageId)).memory, table)!
  const moves = motorHands(values, logKind, view.state.agreement.channels, view.logs.length + 1)
  return { hands: () => unit.drive?.(moves), after: () => unit.drive?.(null) }
}

/** The stand-in calibrator answers the round that was sent: next image onto the shelf and into the case. */
export async function answerStandIn(services: Services, caseId: string, by: string): Promise<void> {
  const { db, shelf } = services
  const view = await openCaseView(db, caseId)
  refuseReal(services, view)
  const { aim } = view.state.agreement
  const { round, table } = await modelOf(services, view)
  if (round.state !== 'sent' || !aim)
    throw new Problem({
      kind: 'not-sent',
      thing: view.state.agreement.title,
      says: 'nothing waits for an answer',
      remedy: 'Send the round first.',
    })
  const counted = new Set(round.logs.filter(({ leftOut }) => leftOut === null).map(({ id }) => id))
  const maps = []
  for (const { id, sha256 } of view.logs) {
    const file = counted.has(id) ? await readBlob(db, sha256) : null
    const map = file && errorMap(readCsvLog(file), aim)
    if (map) maps.push(map)
  }
  const { image, memory } = await shelf.open(round.imageId)
  const errors = joinBinned(maps)
  const { columns, rows } = tableShape(table)
  const tuned = errors?.count.length === columns * rows ? tuneTable(memory, table, errors) : memory
  const family = await getFamily(db, view.unit.familyId)
  const version = nextVersion(image.identity?.version ?? '1')
  const next = relabel(family, image.identity?.componentId ?? family.components[0]!.id, tuned, {
    version,
    buildTime: Math.floor(Date.now() / 1000),
  })
  const { images } = await shelf.add(
    `${image.name.replace(/-?[\d.]+\.\w+$/, '')}-${version}.bin`,
    next[0]!.bytes,
    {
      origin: `${view.state.agreement.calibrator}, a stand-in`,
      address: next[0]!.address,
    },
  )
  await takeRevision(db, shelf, caseId, {
    imageId: images[0]!.id,
    definitionId: round.definitionId,
    remarks: 'The stand-in calibrator took part of each error away.',
    by,
  })
}

function refuseReal(services: Services, { unit }: CaseView): void {
  if (isStandIn(services, unit.id)) return
  throw new Problem({
    kind: 'no-stand-in',
    thing: unit.name,
    says: 'this is a real unit',
    remedy: 'Log it with its own logger, and send the package to its calibrator.',
  })
}

async function modelOf(
  { db }: Services,
  { state }: CaseView,
): Promise<{ round: CaseView['state']['rounds'][number]; table: CalibrationTable }> {
  const round = state.rounds.at(-1)
  const definition = round?.definitionId ? await getDefinition(db, round.definitionId) : null
  const table = definition?.tables.find(({ x, y, unit }) => x && y && unit === 'A')
  if (round && table) return { round, table }
  throw new Problem({
    kind: 'no-model',
    thing: state.agreement.title,
    says: 'the stand-in has no model of this unit',
    remedy: 'Import a log, and take in the answer as it comes.',
  })
}
