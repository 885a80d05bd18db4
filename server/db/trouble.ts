import { LibsqlError } from '@libsql/client'
import { Problem } from '@bench-wake/core/kernel'

/** What a database says when it cannot be written or read, by SQLite's primary result codes (sqlite.org/rescode.html). */
const troubles: Record<string, { kind: string; says: string; remedy: string }> = {
  SQLITE_FULL: {
    kind: 'disk-full',
    says: 'the disk is full, and the record cannot be written',
    remedy: 'Free some space on the disk of the data folder. What was kept before is safe.',
  },
  SQLITE_BUSY: {
    kind: 'database-locked',
    says: 'another program holds the database, and the record cannot be written',
    remedy: 'Close what has the database file open: a viewer, a backup or a virus scanner. Then try again.',
  },
  SQLITE_READONLY: {
    kind: 'folder-read-only',
    says: 'the data folder is read-only',
    remedy: 'Give your account the right to write there, or set BENCH_WAKE_DATA to another folder.',
  },
  SQLITE_CANTOPEN: {
    kind: 'folder-read-only',
    says: 'the database in the data folder cannot be opened',
    remedy: 'Look whether the folder is there and may be written, or set BENCH_WAKE_DATA to another folder.',
  },
  SQLITE_IOERR: {
    kind: 'disk-failed',
    says: 'the disk did not take what was written',
    remedy:
      'Look whether the disk is full, unplugged or failing. What was kept before is safe; save a copy of the data folder.',
  },
  SQLITE_CORRUPT: {
    kind: 'database-damaged',
    says: 'the database is damaged',
    remedy: 'End the program and bring back a backup with "npm run restore".',
  },
}
const alike: Record<string, string> = {
  SQLITE_LOCKED: 'SQLITE_BUSY',
  SQLITE_PERM: 'SQLITE_READONLY',
  SQLITE_NOTADB: 'SQLITE_CORRUPT',
}

/** What an error of the file system means to a person, by its POSIX name. */
const fileTroubles: Record<string, keyof typeof troubles> = {
  ENOSPC: 'SQLITE_FULL',
  EDQUOT: 'SQLITE_FULL',
  EFBIG: 'SQLITE_FULL',
  EROFS: 'SQLITE_READONLY',
  EACCES: 'SQLITE_READONLY',
  EPERM: 'SQLITE_READONLY',
  EIO: 'SQLITE_IOERR',
}

/** A failed write to a file, to a person; undefined where the error is none of the file system's. */
export function fileTrouble(error: unknown): Problem | undefined {
  const code = (error as NodeJS.ErrnoException | undefined)?.code ?? ''
  const trouble = Object.hasOwn(fileTroubles, code) ? troubles[fileTroubles[code]!] : undefined
  return trouble && new Problem({ ...trouble, found: code })
}

/** The database's own word within whatever it was wrapped in; undefined where it is none of its errors. */
function databaseError(error: unknown): LibsqlError | undefined {
  for (let at = error, depth = 0; at instanceof Error && depth < 5; at = at.cause, depth++) {
    if (at instanceof LibsqlError) return at
  }
  return undefined
}

/**
 * What a database error means to a person, without its SQL.
 * @returns undefined where the error is not the database's.
 */
export function databaseTrouble(error: unknown): Problem | undefined {
  const found = databaseError(error)
  if (!found) return undefined
  const code = /^SQLITE_[A-Z]+/.exec(found.code)?.[0] ?? found.code
  const trouble = troubles[alike[code] ?? code]
  if (trouble) return new Problem({ ...trouble, found: found.extendedCode ?? found.code })
  return new Problem({
    kind: 'defect',
    says: 'the database refused what the program asked',
    found: found.extendedCode ?? found.code,
    remedy: 'Nothing was lost. Try again; if it comes back, report what you did.',
  })
}
