import { createClient } from '@libsql/client'
import { Problem } from '@bench-wake/core/kernel'
import { stat } from 'node:fs/promises'
import { pathToFileURL } from 'node:url'

/** Files are looked for this often, ms: a lost one is noticed within a second. */
const lookEveryMs = 400

const identityOf = (path: string) =>
  stat(path).then(
    ({ dev, ino }) => `${dev} ${ino}`,
    () => null,
  )

/**
 * Notices when the database or its write-ahead log is removed or replaced under the running program: SQLite goes on writing
 * to a file that has no name any more, and everything acknowledged from then on would be lost.
 * @param gone is told once, with what happened and whether the last writes could be kept.
 * @returns ends the watch.
 */
export async function watchDatabase(
  path: string,
  gone: (problem: Problem) => void,
): Promise<() => Promise<void>> {
  // A connection of its own that stays open: the log keeps its name for as long as anything holds it.
  const anchor = createClient({ url: pathToFileURL(path).href, timeout: 2000 })
  await anchor.execute('select count(*) from sqlite_master')
  const files = [path, `${path}-wal`]
  const before = await Promise.all(files.map(identityOf))
  let timer: NodeJS.Timeout | undefined
  let looking: Promise<void> = Promise.resolve()
  const look = async () => {
    const now = await Promise.all(files.map(identityOf))
    const lost = files.filter((_, index) => now[index] !== before[index])
    if (lost.length === 0) {
      next()
      return
    }
    const kept = now[0] === before[0] && (await intoDatabase(anchor))
    gone(
      new Problem({
        kind: 'database-gone',
        thing: lost.join(', '),
        says: 'the database was moved, replaced or removed while the program was running',
        found: kept
          ? 'everything acknowledged so far was written to the database'
          : 'the last writes may be in a file that has no name any more',
        remedy: kept
          ? 'Start the program again.'
          : 'End the program. Put the file back where it was, or restore a backup with "npm run restore". Then start again.',
      }),
    )
  }
  const next = () => {
    timer = setTimeout(() => {
      looking = look()
    }, lookEveryMs)
    timer.unref()
  }
  next()
  return async () => {
    clearTimeout(timer)
    await looking
    clearTimeout(timer)
    anchor.close()
  }
}

/** Moves the log into the database, which still has its name. @returns whether all of it is there. */
async function intoDatabase(anchor: ReturnType<typeof createClient>): Promise<boolean> {
  try {
    const { rows } = await anchor.execute('PRAGMA wal_checkpoint(FULL)')
    const [busy, inLog, moved] = [0, 1, 2].map((column) => Number(rows[0]![column]))
    return busy === 0 && inLog === moved
  } catch {
    return false
  }
}
