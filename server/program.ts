import { Problem } from '@bench-wake/core/kernel'
import { join } from 'node:path'
import { ownFolderAt, refuseReadOnly } from './data-folder/disk'
import { keepToOneProgram } from './data-folder/one-program'
import { databaseFile } from './data-folder/place'
import { beginRestore, settleRestore, undoRestore } from './data-folder/restore-journal'
import { problemResponse } from './problem'
import { sentenceOf } from './sentence'
import { collect } from './store/collect'
import type { Settings } from './settings'
import {
  listen,
  openProgram,
  type Listener,
  type OpenProgram,
  type Restart,
  type StartOptions,
} from './start'

export interface StartedServer {
  address: string
  port: number
  shownPassword: string | null
  open: boolean
  cutRuns: string[]
  /** What became of a restore that this start finished; null where there was none. */
  restored: string | null
  /** Waits for the next safe point of each run, then ends. */
  stop(): Promise<void>
}

/** Time for an answer to reach the page before the program restarts, ms. */
const answerMs = 200

const restarting = new Problem({
  kind: 'restore-under-way',
  says: 'the program is restarting on a backup',
  remedy: 'Wait a moment, then try again. Nothing was done.',
})

/**
 * The whole program. It keeps its address while it restarts on a backup, and goes on with the old data where the backup
 * cannot be opened.
 */
export async function runProgram(settings: Settings, options: StartOptions = {}): Promise<StartedServer> {
  const path = databaseFile(settings.databaseUrl)
  await ownFolderAt(settings.dataFolder)
  await refuseReadOnly(settings.dataFolder)
  const release = await keepToOneProgram(path ?? join(settings.dataFolder, 'bench-wake'))
  let ending = false
  let restart: Promise<void> = Promise.resolve()
  let running: OpenProgram | undefined
  let refusal = restarting
  let listener: Listener | undefined

  const open = async (): Promise<OpenProgram> => {
    try {
      return await openProgram(settings, restore, options)
    } catch (error) {
      // Data that cannot be opened after a restore make way for those from before it.
      if (path === null || !(await undoRestore(path, sentenceOf(error)))) throw error
      return openProgram(settings, restore, options)
    }
  }

  const restore: Restart = async (gate, journal) => {
    await gate.shut(restarting)
    await beginRestore(path!, journal).catch((error: unknown) => {
      gate.open()
      throw error
    })
    const timer = setTimeout(() => {
      restart = (async () => {
        const before = running
        running = undefined
        listener?.dropConnections()
        try {
          await before?.stop()
          if (ending) return
          // Connections close once what they answered is collected.
          await collect()
          await collect()
          await settleRestore(path!)
          running = await open()
          await running.begin()
          const said = running.restored ?? 'The backup could not be opened; the data from before are in use.'
          process.stdout.write(`${said}\n`)
        } catch (error) {
          refusal = new Problem({
            kind: 'no-data',
            says: 'the program has no data that it can open',
            found: sentenceOf(error),
            remedy: 'End it, and restore another backup with "npm run restore".',
          })
          process.stderr.write(`${refusal.message}\n`)
        }
      })()
    }, answerMs)
    timer.unref()
  }

  try {
    running = await open()
    const listening = await listen(settings, (request, ...more) =>
      running ? running.fetch(request, ...more) : problemResponse(refusal),
    ).catch(async (error: unknown) => {
      await running?.stop()
      throw error
    })
    listener = listening
    const { shownPassword, open: reachable, cutRuns, restored } = running
    await running.begin()
    return {
      address: listening.address,
      port: listening.port,
      shownPassword,
      open: reachable,
      cutRuns,
      restored,
      async stop() {
        ending = true
        await restart
        await running?.drain()
        await listening.close()
        await running?.stop()
        await release()
      },
    }
  } catch (error) {
    await release()
    throw error
  }
}
