import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'

/** What the environment says; the defaults are those of the README. */
export interface Settings {
  port: number
  host: string
  dataFolder: string
  databaseUrl: string
}

/** @throws Error that names the variable. */
export function readSettings(environment: NodeJS.ProcessEnv): Settings {
  const port = Number(environment['PORT'] ?? 4370)
  if (!Number.isInteger(port) || port < 0 || port > 65_535) {
    throw new Error(`PORT must be a number from 0 to 65535, not "${environment['PORT']}".`)
  }
  const dataFolder = resolve(environment['BENCH_WAKE_DATA'] ?? './data')
  return {
    port,
    host: environment['BENCH_WAKE_HOST'] ?? '127.0.0.1',
    dataFolder,
    databaseUrl: environment['BENCH_WAKE_DB_URL'] ?? pathToFileURL(resolve(dataFolder, 'bench-wake.db')).href,
  }
}
