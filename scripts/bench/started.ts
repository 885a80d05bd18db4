import { spawn, type ChildProcess } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { builtServer, needServer } from '../server.mjs'

/** The whole program as a process of its own, with the demo scenario in a folder. @throws Error with what it said when it ends first. */
export async function startProgram(folder: string): Promise<{ child: ChildProcess; address: string }> {
  await needServer()
  const child = spawn(process.execPath, [builtServer, '--demo'], {
    env: { ...process.env, PORT: '0', BENCH_WAKE_DATA: folder },
    stdio: ['ignore', 'pipe', 'inherit'],
  })
  const address = await new Promise<string>((resolve, reject) => {
    let text = ''
    child.stdout.on('data', (chunk: Buffer) => {
      text += chunk.toString()
      const found = /Bench Wake is at (\S+)/.exec(text)?.[1]
      if (found) resolve(found)
    })
    child.once('exit', () => reject(new Error(`the program ended: ${text}`)))
  })
  return { child, address }
}

/** Memory of a process now, MiB (proc(5), VmRSS). */
export const memoryOf = ({ pid }: ChildProcess): number =>
  Number(/VmRSS:\s+(\d+)/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))![1]) / 1024
