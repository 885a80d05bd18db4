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
  /** Which of the system's own ports are shown, by path or a part of it; all where it is empty. */
  shownPorts: string[]
  /** Names by which a program in front asks for it. */
  names: string[]
  /** For whom others can reach it; absent where one is kept or is to be made. */
  password?: string
  /** How what is sent is kept from others; null where only this computer asks. */
  tls: { cert: string; key: string } | 'in-front' | 'none' | null
}

const loopback = ['127.0.0.1', 'localhost', '::1', '[::1]']
export const isLoopback = (host: string) => loopback.includes(host)

/** @throws Error that names the variable. */
function readTls(environment: NodeJS.ProcessEnv, host: string): Settings['tls'] {
  const [cert, key, word] = ['CERT', 'KEY', ''].map(
    (name) => environment[name ? `BENCH_WAKE_TLS_${name}` : 'BENCH_WAKE_TLS'],
  )
  if (cert || key) {
    if (cert && key) return { cert: resolve(cert), key: resolve(key) }
    throw new Error('BENCH_WAKE_TLS_CERT and BENCH_WAKE_TLS_KEY go together: set both, each to a PEM file.')
  }
  if (word === 'in-front' || word === 'none') return word
  if (word !== undefined) throw new Error(`BENCH_WAKE_TLS must be "in-front" or "none", not "${word}".`)
  if (isLoopback(host)) return null
  throw new Error(
    'With BENCH_WAKE_HOST set, others can reach the program. Set BENCH_WAKE_TLS_CERT and BENCH_WAKE_TLS_KEY to a certificate’s files, or BENCH_WAKE_TLS=in-front where another program encrypts, or BENCH_WAKE_TLS=none where everybody in this network may read along.',
  )
}

const listed = (text: string | undefined) =>
  (text ?? '')
    .split(',')
    .map((each) => each.trim())
    .filter((each) => each !== '')

/** @throws Error that names the variable. */
export function readSettings(environment: NodeJS.ProcessEnv): Settings {
  const port = Number(environment['PORT'] ?? 4370)
  if (!Number.isInteger(port) || port < 0 || port > 65_535) {
    throw new Error(`PORT must be a number from 0 to 65535, not "${environment['PORT']}".`)
  }
  const host = environment['BENCH_WAKE_HOST'] ?? '127.0.0.1'
  const dataFolder = resolve(environment['BENCH_WAKE_DATA'] ?? './data')
  return {
    port,
    host,
    dataFolder,
    ports: listed(environment['BENCH_WAKE_PORTS']),
    shownPorts: listed(environment['BENCH_WAKE_SHOWN_PORTS']),
    names: listed(environment['BENCH_WAKE_NAMES']),
    ...(environment['BENCH_WAKE_PASSWORD'] ? { password: environment['BENCH_WAKE_PASSWORD'] } : {}),
    tls: readTls(environment, host),
    databaseUrl: environment['BENCH_WAKE_DB_URL'] ?? pathToFileURL(resolve(dataFolder, 'bench-wake.db')).href,
  }
}
