import { serve, type ServerType } from '@hono/node-server'
import type { Hono } from 'hono'
import { readFileSync, realpathSync, statSync } from 'node:fs'
import { rm } from 'node:fs/promises'
import { createServer as createTlsServer } from 'node:https'
import { hostname } from 'node:os'
import { join } from 'node:path'
import { Access } from './access/access'
import { preparePassword } from './access/passwords'
import { createApp } from './app'
import { DataKeeper } from './data-folder/data-keeper'
import { ownFolderAt } from './data-folder/disk'
import { openData, smallBytes } from './data-folder/open-data'
import { databaseFile } from './data-folder/place'
import { acceptRestore, type RestoreJournal } from './data-folder/restore-journal'
import { watchDatabase } from './data-folder/watch-database'
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
import { Downloads } from './worker/downloads'
import { WorkerThread } from './worker/worker-thread'
import { WriteGate } from './write-gate'

/** The program on its data, without the address it listens on. */
export interface OpenProgram {
  fetch: Hono['fetch']
  /** A password that was made at this start, to be shown once. */
  shownPassword: string | null
  /** Other computers can reach it. */
  open: boolean
  /** Runs of an earlier program that were found cut. */
  cutRuns: string[]
  /** What became of a restore that this start finished; null where there was none. */
  restored: string | null
  /** Begins automatic backups and checks. */
  begin(): Promise<void>
  /** Takes no new run, and waits for the next safe point of each. */
  drain(): Promise<void>
  /** Closes everything. */
  stop(): Promise<void>
}

export interface StartOptions {
  pageFolder?: string
  demo?: boolean | 'year'
}

/** Shuts the gate, then restarts on a checked copy of a backup; resolves once it is accepted. */
export type Restart = (gate: WriteGate, journal: Omit<RestoreJournal, 'step'>) => Promise<void>

export const backupsFolderOf = ({ dataFolder }: Settings) => join(dataFolder, 'backups')

/** An image that was taken off can be put back for so long, ms. */
const keepRemovedMs = 30 * 86_400_000
/** A connection on which nothing is asked is kept for so long, ms: longer than a busy computer stands still. */
const idleMs = 75_000

/**
 * Opens the data and everything that works on them.
 * @param settings the folder's lock is held by the caller.
 */
export async function openProgram(
  settings: Settings,
  restart: Restart,
  { pageFolder, demo = false }: StartOptions = {},
): Promise<OpenProgram> {
  const { dataFolder, databaseUrl } = settings
  const databasePath = databaseFile(databaseUrl)
  const backupsFolder = backupsFolderOf(settings)
  const opened: (() => void | Promise<void>)[] = []
  /** Closes what was opened, last first, also where the start fails. */
  const closeAll = async () => {
    for (const close of opened.splice(0).reverse()) await close()
  }
  try {
    const { db, close, refuse, restored } = await openData(databaseUrl, databasePath, backupsFolder)
    opened.push(close)
    const gate = new WriteGate()
    const worker = new WorkerThread(databaseUrl)
    opened.push(() => worker.close())
    const lentPorts = new LentPorts((ms, act) => hostTime.after(ms, act))
    const downloads = new Downloads(databaseUrl)
    opened.push(() => downloads.close())
    const shelf = new Shelf(db, worker)
    const dataKeeper = new DataKeeper(db, {
      databaseUrl,
      databasePath,
      backupsFolder,
      busy: () => runs.busyNow,
      restore: (journal) => restart(gate, journal),
      altered: (digests) => shelf.markAltered(digests),
      largePath: databasePath !== null && statSync(databasePath).size > smallBytes ? databasePath : null,
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
    const room = portRoom(
      db,
      new Ports(units, lentPorts, settings.ports, settings.shownPorts),
      new CardSlots(cards),
    )
    room.ports.setMeter((await getMeter(db))?.port ?? null)
    const runs = new Runs(db, shelf, room, program)
    const open = !isLoopback(settings.host)
    // On a computer that several accounts use, a password keeps the other accounts out of a loopback address as well.
    const signIn = open || settings.password !== undefined
    const shownPassword = signIn ? await preparePassword(db, settings.password) : null
    const reach = {
      host: settings.host,
      names: settings.names,
      access: signIn ? new Access(db) : null,
      secure: settings.tls === 'in-front' || (typeof settings.tls === 'object' && settings.tls !== null),
    }
    const incoming = join(dataFolder, 'incoming')
    await rm(incoming, { recursive: true, force: true })
    await ownFolderAt(incoming)
    const recordings = new Recordings(db, room, worker, incoming)
    opened.push(() => recordings.end())
    const app = createApp(
      { db, shelf, worker, downloads, runs, room, lentPorts, dataKeeper, incoming, reach, recordings, gate },
      pageFolder,
    )
    if (databasePath !== null) {
      opened.push(
        await watchDatabase(databasePath, (problem) => {
          process.stderr.write(`${problem.message}\n`)
          gate.close(problem)
          refuse(problem)
          runs.halt()
        }),
      )
      await acceptRestore(databasePath)
    }
    return {
      fetch: app.fetch,
      shownPassword,
      open,
      cutRuns,
      restored,
      begin: () => dataKeeper.begin(),
      drain: () => runs.drain(),
      stop: closeAll,
    }
  } catch (error) {
    await closeAll()
    throw error
  }
}

/** An address that is listened on. */
export interface Listener {
  address: string
  port: number
  /** Ends connections that are open now, live views among them: their pages connect again. */
  dropConnections(): void
  close(): Promise<void>
}

/** TLS 1.3, or 1.2 with forward secrecy and authenticated encryption (RFC 9325, clause 4.2). */
const tlsForm = {
  minVersion: 'TLSv1.2' as const,
  ciphers: [
    'TLS_AES_128_GCM_SHA256',
    'TLS_AES_256_GCM_SHA384',
    'TLS_CHACHA20_POLY1305_SHA256',
    'ECDHE-ECDSA-AES128-GCM-SHA256',
    'ECDHE-RSA-AES128-GCM-SHA256',
    'ECDHE-ECDSA-AES256-GCM-SHA384',
    'ECDHE-RSA-AES256-GCM-SHA384',
    'ECDHE-ECDSA-CHACHA20-POLY1305',
    'ECDHE-RSA-CHACHA20-POLY1305',
  ].join(':'),
}

export async function listen({ port, host, tls }: Settings, fetch: Hono['fetch']): Promise<Listener> {
  const encrypted = tls !== null && typeof tls === 'object'
  const server = await new Promise<ServerType>((resolve, reject) => {
    const form = { fetch, port, hostname: host }
    const starting = encrypted
      ? serve(
          {
            ...form,
            createServer: createTlsServer,
            serverOptions: { ...tlsForm, cert: readFileSync(tls.cert), key: readFileSync(tls.key) },
          },
          () => resolve(starting),
        )
      : serve(form, () => resolve(starting))
    starting.once('error', reject)
  })
  // A laptop stands still for a while at times: what is asked then must not meet a connection that was just closed.
  if ('keepAliveTimeout' in server) server.keepAliveTimeout = idleMs
  const bound = server.address()
  const own = bound && typeof bound === 'object' ? bound.port : port
  const dropConnections = () => {
    if ('closeAllConnections' in server) server.closeAllConnections()
  }
  return {
    address: `${encrypted ? 'https' : 'http'}://${host}:${own}`,
    port: own,
    dropConnections,
    async close() {
      dropConnections()
      await new Promise<void>((done) => server.close(() => done()))
    },
  }
}
