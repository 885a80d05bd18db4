import { serve, type ServerType } from '@hono/node-server'
import { mkdir } from 'node:fs/promises'
import { openDatabase } from './db/open'
import { createApp } from './app'
import { hostTime } from './host-time'
import { keepToOneProgram } from './one-program'
import { LentPorts } from './ports/lent'
import { Ports } from './ports/ports'
import { Runner } from './runner'
import { seedDemo } from './seed'
import type { Settings } from './settings'
import { markCutRuns } from './store/runs'
import { Shelf } from './store/shelf'
import { loadStandIns } from './store/stand-ins'
import { Heavy } from './worker/heavy'

export interface StartedServer {
  address: string
  /** Runs of a program before this one that were found cut. */
  cutRuns: string[]
  /** Waits for the next safe point of each run, then ends. */
  stop(): Promise<void>
}

/** Opens the database, marks what was cut, and listens. */
export async function startServer(
  settings: Settings,
  { pageFolder, demo = false }: { pageFolder?: string; demo?: boolean } = {},
): Promise<StartedServer> {
  await mkdir(settings.dataFolder, { recursive: true })
  const free = await keepToOneProgram(settings.dataFolder)
  const { db, close } = await openDatabase(settings.databaseUrl)
  const heavy = new Heavy(settings.databaseUrl)
  const shelf = new Shelf(db, heavy)
  if (demo) await seedDemo(db, shelf)
  const cutRuns = await markCutRuns(db)
  const lentPorts = new LentPorts((ms, act) => hostTime.after(ms, act))
  const runner = new Runner(db, shelf, new Ports(await loadStandIns(db), lentPorts))
  const app = createApp({ db, shelf, heavy, runner, lentPorts }, pageFolder, settings.host)
  const server = await new Promise<ServerType>((resolve, reject) => {
    const starting = serve({ fetch: app.fetch, port: settings.port, hostname: settings.host }, () =>
      resolve(starting),
    )
    starting.once('error', reject)
  })
  const bound = server.address()
  const port = bound && typeof bound === 'object' ? bound.port : settings.port
  return {
    address: `http://${settings.host}:${port}`,
    cutRuns,
    async stop() {
      await runner.drain()
      if ('closeAllConnections' in server) server.closeAllConnections()
      await new Promise<void>((done) => server.close(() => done()))
      await heavy.close()
      close()
      await free()
    },
  }
}
