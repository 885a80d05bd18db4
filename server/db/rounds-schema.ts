import type { CaseEvent, TableDefinitionDocument } from '@bench-wake/core/rounds'
import { index, integer, sqliteTable, text } from 'drizzle-orm/sqlite-core'
import type { JudgedLog } from './judged-log'

/** Calibration by rounds: one case a unit and goal; its state is folded from its events. */
export const calibrationCases = sqliteTable('calibration_cases', {
  id: text().primaryKey(),
  unitId: text().notNull(),
  openedAt: integer().notNull(),
})

export const caseEvents = sqliteTable(
  'case_events',
  {
    id: integer().primaryKey({ autoIncrement: true }),
    caseId: text().notNull(),
    at: integer().notNull(),
    event: text({ mode: 'json' }).$type<CaseEvent>().notNull(),
  },
  (table) => [index('case_events_by_case').on(table.caseId)],
)

/** Logs of a case, each with what the rules said when it was judged. */
export const caseLogs = sqliteTable(
  'case_logs',
  {
    id: text().primaryKey(),
    caseId: text().notNull(),
    round: integer().notNull(),
    logKind: text().notNull(),
    name: text().notNull(),
    sha256: text().notNull(),
    bytes: integer().notNull(),
    at: integer().notNull(),
    judged: text({ mode: 'json' }).$type<JudgedLog>().notNull(),
  },
  (table) => [index('case_logs_by_case').on(table.caseId)],
)

/** Packages as they went to the calibrator: digest, and where its bytes lie. */
export const casePackages = sqliteTable('case_packages', {
  sha256: text().primaryKey(),
  caseId: text().notNull(),
  round: integer().notNull(),
  name: text().notNull(),
  at: integer().notNull(),
})

/** Table definitions of calibration images. */
export const tableDefinitions = sqliteTable('table_definitions', {
  id: text().primaryKey(),
  document: text({ mode: 'json' }).$type<TableDefinitionDocument>().notNull(),
  addedAt: integer().notNull(),
})
