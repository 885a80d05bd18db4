import { resolve } from 'node:path'
import { pathToFileURL } from 'node:url'

/** What the environment says; the defaults are those of the README. */
export interface Settings {
  port: number
  host: string
  dataFolder: string
  databaseUrl: string
  /** Device paths of serial ports that the system does not list: pseudo-terminals and odd adapters. */
  ports: string[]
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
    ports: (environment['BENCH_WAKE_PORTS'] ?? '')
      .split(',')
      .map((path) => path.trim())
      .filter((path) => path !== ''),
    databaseUrl: environment['BENCH_WAKE_DB_URL'] ?? pathToFileURL(resolve(dataFolder, 'bench-wake.db')).href,
  }
}
