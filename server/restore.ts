import { keepToOneProgram } from './data-folder/one-program'
import { listBackupFiles, restoreBackup } from './data-folder/backups'
import { databaseFile } from './data-folder/place'
import { sentenceOf } from './program'
import { readSettings } from './settings'
import { backupsFolderOf } from './start'

// npm run restore: lists the backups; npm run restore -- "NAME": puts one in the place of the database.
try {
  const settings = readSettings(process.env)
  const folder = backupsFolderOf(settings)
  const path = databaseFile(settings.databaseUrl)
  if (path === null) throw new Error('the database lies on a server; ask who keeps it for its backups.')
  const name = process.argv[2]
  const files = await listBackupFiles(folder)
  if (name === undefined) {
    if (files.length === 0) console.log('There is no backup yet.')
    for (const { name: each, bytes } of files) console.log(`${each}   ${Math.ceil(bytes / 1024)} KiB`)
    if (files.length > 0) console.log('Bring one back with: npm run restore -- "NAME"')
  } else {
    const free = await keepToOneProgram(path)
    try {
      const aside = await restoreBackup(path, folder, name, Date.now())
      console.log(`${name} is the database now.${aside ? ` What was there before is kept as ${aside}.` : ''}`)
    } finally {
      await free()
    }
  }
} catch (error) {
  console.error(sentenceOf(error))
  process.exitCode = 1
}
