import { constants } from 'node:fs'
import { chmod, copyFile, mkdir, open, rename, rm, stat } from 'node:fs/promises'
import { dirname, join } from 'node:path'
import { fileTrouble } from '../db/trouble'

/** Only the account that runs the program reads its data: other accounts of a shared computer do not. */
export const ownFile = 0o600
export const ownFolder = 0o700

/** Waits until a file's content is on the disk. */
export async function syncFile(path: string): Promise<void> {
  const file = await open(path, 'r+')
  try {
    await file.sync()
  } finally {
    await file.close()
  }
}

/** Waits until the names in a folder are on the disk. Windows keeps names by itself and opens no folder. */
export async function syncFolder(path: string): Promise<void> {
  if (process.platform === 'win32') return
  const folder = await open(path, 'r')
  try {
    await folder.sync()
  } finally {
    await folder.close()
  }
}

/** Copies a file to a name that is free, with its content on the disk. @throws Error `EEXIST`. */
export async function copyAside(from: string, to: string): Promise<void> {
  await copyFile(from, to, constants.COPYFILE_EXCL)
  await chmod(to, ownFile)
  await syncFile(to)
  await syncFolder(dirname(to))
}

/** Writes a small file so that a reader finds the old content or the new one, whole. */
export async function replaceFile(path: string, text: string): Promise<void> {
  const part = `${path}.part`
  const file = await open(part, 'w', ownFile)
  try {
    await file.writeFile(text)
    await file.sync()
  } finally {
    await file.close()
  }
  await rename(part, path)
  await syncFolder(dirname(path))
}

export const isThere = (path: string): Promise<boolean> =>
  stat(path).then(
    () => true,
    () => false,
  )

/** A folder of the program's own, closed to other accounts. */
export async function ownFolderAt(path: string): Promise<void> {
  await mkdir(path, { recursive: true, mode: ownFolder })
}

/** @throws Problem `folder-read-only`, `disk-full`: a file cannot be made there. */
export async function refuseReadOnly(folder: string): Promise<void> {
  const path = join(folder, `.write-${process.pid}`)
  try {
    await (await open(path, 'wx', ownFile)).close()
    await removeFile(path)
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code === 'EEXIST') return removeFile(path)
    throw fileTrouble(error)?.about(folder) ?? error
  }
}

export const removeFile = (path: string): Promise<void> => rm(path, { force: true })
