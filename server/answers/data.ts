import type * as backupsTypes from '../data-folder/backups'
import type * as damageTypes from '../data-folder/damage'
import type * as dataFolderTypes from '../data-folder/data-keeper'
import * as v from 'valibot'
import { held } from './held'

export const BackupFile = held<backupsTypes.BackupFile>()(
  'BackupFile',
  v.object({ name: v.string(), bytes: v.number(), at: v.number() }),
)

export const Damage = held<damageTypes.Damage>()(
  'Damage',
  v.object({
    id: v.exactOptional(v.number()),
    at: v.exactOptional(v.number()),
    table: v.string(),
    key: v.string(),
    why: v.string(),
  }),
)

export const DataState = held<dataFolderTypes.DataState>()(
  'DataState',
  v.object({
    database: v.nullable(v.object({ path: v.string(), bytes: v.number() })),
    freeBytes: v.nullable(v.number()),
    backups: v.array(BackupFile),
    trouble: v.nullable(v.string()),
    damage: v.array(Damage),
    sweep: v.object({
      at: v.nullable(v.number()),
      runs: v.object({ checked: v.number(), total: v.number() }),
      files: v.object({ checked: v.number() }),
    }),
    restored: v.nullable(v.object({ at: v.number(), says: v.string() })),
  }),
)

/** A row that could not be read, whole. */
export const DamagedRow = v.object({
  table: v.string(),
  key: v.string(),
  why: v.string(),
  row: v.record(v.string(), v.unknown()),
})
