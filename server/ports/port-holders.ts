import { readdir, readFile, readlink, realpath } from 'node:fs/promises'
import { join } from 'node:path'

/**
 * Which other programs hold these ports, by path: "terminal (4711)". On Linux the system tells, for processes of the
 * same user, by the files each has open (proc(5)); elsewhere nothing is told and the map is empty.
 */
export async function portHolders(
  paths: readonly string[],
  procFolder = '/proc',
): Promise<Map<string, string>> {
  const holders = new Map<string, string>()
  const wanted = new Map<string, string>()
  for (const path of paths) wanted.set(await realpath(path).catch(() => path), path)
  const processes = await readdir(procFolder).catch(() => [] as string[])
  for (const id of processes) {
    if (!/^\d+$/.test(id) || Number(id) === process.pid) continue
    const folder = join(procFolder, id, 'fd')
    const opened = await readdir(folder).catch(() => [] as string[])
    const targets = await Promise.all(opened.map((open) => readlink(join(folder, open)).catch(() => '')))
    // Who holds the master of a pseudo-terminal is its other end, and no rival at this one (pty(7)).
    const makesTerminals = targets.some((target) => target === '/dev/ptmx' || target === '/dev/pts/ptmx')
    for (const target of targets) {
      if (makesTerminals && target.startsWith('/dev/pts/')) continue
      const path = wanted.get(target)
      if (path === undefined || holders.has(path)) continue
      const name = (await readFile(join(procFolder, id, 'comm'), 'utf8').catch(() => '')).trim()
      holders.set(path, `${name || 'a program'} (${id})`)
    }
  }
  return holders
}
