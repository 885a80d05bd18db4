import { parseArgs } from 'node:util'
import { clearCandidates, listBackupFiles, prepareRestore } from './data-folder/backups'
import { keepToOneProgram } from './data-folder/one-program'
import { databaseFile } from './data-folder/place'
import { beginRestore, restoreSentence, settleRestore } from './data-folder/restore-journal'
import { sentenceOf } from './sentence'
import { readSettings } from './settings'
import { backupsFolderOf } from './start'

// npm run restore: lists the backups; npm run restore -- "NAME": puts one in the place of the database.
process.umask(0o077)
try {
  const settings = readSettings(process.env)
  const folder = backupsFolderOf(settings)
  const path = databaseFile(settings.databaseUrl)
  if (path === null)
    throw new Error('the database is on a server; ask the person who keeps it for its backups.')
  const { values, positionals } = parseArgs({
    allowPositionals: true,
    options: { 'despite-damage': { type: 'boolean', default: false } },
  })
  const [name] = positionals
  const files = await listBackupFiles(folder)
  if (name === undefined) {
    if (files.length === 0) console.log('There is no backup yet.')
    for (const { name: each, bytes } of files) console.log(`${each}   ${Math.ceil(bytes / 1024)} KiB`)
    if (files.length > 0) console.log('Restore one with: npm run restore -- "NAME"')
  } else {
    const release = await keepToOneProgram(path)
    try {
      // What an earlier restore left unfinished comes first.
      await settleRestore(path)
      await clearCandidates(path)
      const form = {
        databasePath: path,
        folder,
        name,
        at: Date.now(),
        despiteDamage: values['despite-damage'],
      }
      await beginRestore(path, await prepareRestore(form))
      const journal = await settleRestore(path)
      if (journal) console.log(restoreSentence(journal))
    } finally {
      await release()
    }
  }
} catch (error) {
  console.error(sentenceOf(error))
  process.exitCode = 1
}
