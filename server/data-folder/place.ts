import { existsSync, realpathSync } from 'node:fs'
import { basename, dirname, join, resolve } from 'node:path'
import { fileURLToPath } from 'node:url'

/** The file of a database; null where it lies on a server. */
export function databaseFile(url: string): string | null {
  if (!url.startsWith('file:')) return null
  const path = /^file:\/\//.test(url) ? fileURLToPath(url.split('?')[0]!) : url.slice(5).split('?')[0]!
  return resolve(path)
}

/** Where a path really leads, through every link; its last part may not be there yet. */
export function realPlace(path: string): string {
  return existsSync(path) ? realpathSync(path) : join(realpathSync(dirname(path)), basename(path))
}
