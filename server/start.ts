import { serve, type ServerType } from '@hono/node-server'
import { existsSync, readFileSync, realpathSync } from 'node:fs'
import { mkdir, rm } from 'node:fs/promises'
import { createServer as createTlsServer } from 'node:https'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { connectDatabase, needsUpdate, openDatabase } from './db/open'
import { Access } from './access/access'
import { preparePassword } from './access/passwords'
import { createApp } from './app'
import { checkDatabase, makeBackup } from './data-folder/backups'
import { DataKeeper } from './data-folder/data-keeper'
import { keepToOneProgram } from './data-folder/one-program'
import { databaseFile } from './data-folder/place'
import { hostTime } from './host-time'
import { LentPorts } from './ports/lent'
import { Ports } from './ports/ports'
import { portRoom } from './ports/port-room'
import { Recordings } from './rounds/recordings'
import { Runs } from './runs/runs'
import { isLoopback, type Settings } from './settings'
import { markCutRuns } from './store/runs'
import { Shelf } from './store/shelf'
import { holdsFamilies } from './store/families'
import { getMeter } from './store/meter'
import { CardSlots } from './ports/card-slots'
import { loadStandIns } from './store/stand-ins'
import { WorkerThread } from './worker/worker-thread'

export interface StartedServer {
  address: string
  port: number
  /** A password that was made at this start, to be shown once. */
  shownPassword: string | null
  /** Others than this computer can reach it. */
  open: boolean
  /** Runs of a program before this one that were found cut. */
  cutRuns: string[]
  /** Waits for the next safe point of each run, then ends. */
  stop(): Promise<void>
}

export interface StartOptions {
  pageFolder?: string
  demo?: boolean | 'year'
  /** Puts a backup in the place of the database and starts anew. */
  restore?: (name: string) => Promise<void>
}

export const backupsFolderOf = ({ dataFolder }: Settings) => join(dataFolder, 'backups')

/** An image that was taken off can be put back for so long, ms. */
const keepRemovedMs = 30 * 86_400_000
/** A connection on which nothing is asked is kept for so long, ms: longer than a busy computer stands still. */
const idleMs = 75_000

/**
 * Looks at the database before it is used, and keeps a copy before it is changed to this version's form.
 * @throws Problem `database-damaged`, `disk-full` and what else keeps the folder from being used.
 */
async function lookBefore(databaseUrl: string, path: string, backupsFolder: string): Promise<void> {
  if (!existsSync(path)) return
  await checkDatabase(path, 'quick_check')
  const { db, close } = await connectDatabase(databaseUrl)
  try {
    if (await needsUpdate(db)) await makeBackup(path, backupsFolder, Date.now(), 'before an update')
  } finally {
    close()
  }
}

/** Opens the database, marks what was cut, and listens. */
export async function startServer(
  settings: Settings,
  { pageFolder, demo = false, restore }: StartOptions = {},
): Promise<StartedServer> {
  const { dataFolder, databaseUrl } = settings
  await mkdir(dataFolder, { recursive: true })
  const databasePath = databaseFile(databaseUrl)
  const backupsFolder = backupsFolderOf(settings)
  const free = await keepToOneProgram(databasePath ?? join(dataFolder, 'bench-wake'))
  const opened: (() => void | Promise<void>)[] = [free]
  /** What was opened is closed again, last first, also where the start comes to nothing. */
  const closeAll = async () => {
    for (const close of opened.splice(0).reverse()) await close()
  }
  try {
    if (databasePath !== null) await lookBefore(databaseUrl, databasePath, backupsFolder)
    const { db, close } = await openDatabase(databaseUrl)
    opened.push(close)
    const worker = new WorkerThread(databaseUrl)
    opened.push(() => worker.close())
    const lentPorts = new LentPorts((ms, act) => hostTime.after(ms, act))
    const shelf = new Shelf(db, worker)
    const dataKeeper = new DataKeeper(db, {
      databaseUrl,
      databasePath,
      backupsFolder,
      busy: () => runs.busyNow,
      restore: restore ?? (() => Promise.reject(new Error('this program cannot start anew by itself'))),
    })
    opened.push(() => dataKeeper.end())
    // First what cannot be read, so that nothing below meets it.
    const aside = await dataKeeper.setAside()
    if (aside > 0) {
      process.stderr.write(
        `${aside} row(s) of ${databasePath ?? 'the database'} could not be read and were set aside. See "This bench’s data" in the program.\n`,
      )
    }
    await shelf.clearRemoved(Date.now() - keepRemovedMs)
    // The scenario is read from disk for the demo alone.
    // Nor is it read where it is in already: that alone takes a third of a second.
    if (demo && !(await holdsFamilies(db)))
      await (await import('./seed')).seedDemo(db, shelf, worker, { year: demo === 'year' })
    // A database on a server is worked on by others too, whose runs are none of this one's.
    const program = `${hostname()}:${realpathSync(dataFolder)}`
    const cutRuns = await markCutRuns(db, databasePath === null ? program : undefined)
    const { units, cards } = await loadStandIns(db)
    const room = portRoom(db, new Ports(units, lentPorts, settings.ports), new CardSlots(cards))
    room.ports.setMeter((await getMeter(db))?.port ?? null)
    const runs = new Runs(db, shelf, room, program)
    const open = !isLoopback(settings.host)
    const shownPassword = open ? await preparePassword(db, settings.password) : null
    const reach = {
      host: settings.host,
      names: settings.names,
      access: open ? new Access(db) : null,
      secure: settings.tls === 'in-front' || (typeof settings.tls === 'object' && settings.tls !== null),
    }
    const incoming = join(dataFolder, 'incoming')
    await rm(incoming, { recursive: true, force: true })
    await mkdir(incoming)
    const recordings = new Recordings(db, room, worker, incoming)
    opened.push(() => recordings.end())
    const app = createApp(
      { db, shelf, worker, runs, room, lentPorts, dataKeeper, incoming, reach, recordings },
      pageFolder,
    )
    const server = await new Promise<ServerType>((resolve, reject) => {
      const { port, host: hostname, tls } = settings
      const form = { fetch: app.fetch, port, hostname }
      const starting =
        tls !== null && typeof tls === 'object'
          ? serve(
              {
                ...form,
                createServer: createTlsServer,
                serverOptions: { cert: readFileSync(tls.cert), key: readFileSync(tls.key) },
              },
              () => resolve(starting),
            )
          : serve(form, () => resolve(starting))
      starting.once('error', reject)
    })
    // A laptop stands still for a while at times: what is asked then must not meet a connection that was just closed.
    if ('keepAliveTimeout' in server) server.keepAliveTimeout = idleMs
    dataKeeper.begin()
    const bound = server.address()
    const port = bound && typeof bound === 'object' ? bound.port : settings.port
    return {
      address: `${typeof settings.tls === 'object' && settings.tls !== null ? 'https' : 'http'}://${settings.host}:${port}`,
      shownPassword,
      open,
      port,
      cutRuns,
      async stop() {
        await runs.drain()
        if ('closeAllConnections' in server) server.closeAllConnections()
        await new Promise<void>((done) => server.close(() => done()))
        await closeAll()
      },
    }
  } catch (error) {
    await closeAll()
    throw error
  }
}
