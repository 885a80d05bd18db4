import { mkdirSync, openSync, symlinkSync, writeFileSync } from 'node:fs'
import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { describe, expect, it } from 'vitest'
import { scratchFolder } from '../server.test-support'
import { portHolders } from './port-holders'

const folder = scratchFolder()

// PRACTICE C5: one program a port; the monitor that read the version has to be closed.
describe('who holds a port', () => {
  it('is told by the system’s own list of open files', async () => {
    const port = join(folder, 'port')
    writeFileSync(port, '')
    const held = openSync(port, 'r+')
    const child = spawn('sleep', ['30'], { stdio: [held, 'ignore', 'ignore'] })
    try {
      await expect.poll(async () => (await portHolders([port])).get(port)).toBe(`sleep (${child.pid})`)
    } finally {
      child.kill()
    }
  })
  it('is looked up in a folder laid out as proc(5) says', async () => {
    const proc = join(folder, 'proc')
    mkdirSync(join(proc, '812', 'fd'), { recursive: true })
    writeFileSync(join(proc, '812', 'comm'), 'monitor\n')
    symlinkSync('/dev/ttyX7', join(proc, '812', 'fd', '3'))
    expect(await portHolders(['/dev/ttyX7', '/dev/ttyX8'], proc)).toEqual(
      new Map([['/dev/ttyX7', 'monitor (812)']]),
    )
    expect(await portHolders(['/dev/ttyX7'], join(folder, 'nothing'))).toEqual(new Map())
  })
  // Source: pty(7): the master is opened by way of /dev/ptmx; whoever has it is the unit's side, as with a stand-in.
  it('is nobody where the other end of a pseudo-terminal keeps it open', async () => {
    const proc = join(folder, 'proc-pty')
    for (const [id, ...open] of [
      ['21', '/dev/ptmx', '/dev/pts/4'],
      ['22', '/dev/pts/5'],
    ]) {
      mkdirSync(join(proc, id!, 'fd'), { recursive: true })
      writeFileSync(join(proc, id!, 'comm'), 'far end\n')
      open.forEach((target, at) => symlinkSync(target, join(proc, id!, 'fd', String(at))))
    }
    expect(await portHolders(['/dev/pts/4', '/dev/pts/5'], proc)).toEqual(
      new Map([['/dev/pts/5', 'far end (22)']]),
    )
  })
})
