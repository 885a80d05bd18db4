import { createClient } from '@libsql/client'
import { Problem } from '@bench-wake/core/kernel'
import { pathToFileURL } from 'node:url'
import { databaseTrouble } from '../db/trouble'
import { realPlace } from './place'

/**
 * Keeps a database to one program: a second one would call the first one's runs cut while they are still written. A lock
 * of the file system on a file beside the database tells it: it goes with the process, however that ends, and it is the
 * same lock by whatever name or link the folder is reached.
 * @param path the database's file, or the data folder where the database lies elsewhere.
 * @returns gives it free.
 * @throws Problem `folder-in-use`, or what keeps the folder from being written.
 */
export async function keepToOneProgram(path: string): Promise<() => Promise<void>> {
  try {
    const client = createClient({ url: pathToFileURL(`${realPlace(path)}.lock`).href, timeout: 0 })
    try {
      const held = await client.transaction('write')
      return async () => {
        held.close()
        client.close()
      }
    } catch (error) {
      client.close()
      throw error
    }
  } catch (error) {
    const trouble = databaseTrouble(error)
    if (trouble?.facts.kind === 'database-locked') {
      throw new Problem({
        kind: 'folder-in-use',
        thing: path,
        says: 'another Bench Wake works with this data',
        remedy:
          'Use the one that runs, or wait: asked to end, it brings its writes to a safe point first. For a second one set BENCH_WAKE_DATA to a folder of its own.',
      })
    }
    throw trouble?.about(path) ?? error
  }
}
