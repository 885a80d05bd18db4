import { Problem, asciiBytes, sha256Hex } from '@bench-wake/core/kernel'
import { unlinkSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { tmpdir } from 'node:os'
import { join, resolve } from 'node:path'

/** Nobody who is there takes longer to pick up, ms. */
const answerMs = 1000

/**
 * Keeps a data folder to one program: a second one would call the first one's runs cut while they are still written. A
 * socket tells it, and not a file, so that a program that was killed leaves nothing behind that looks alive.
 * @returns gives the folder free.
 * @throws Problem `folder-in-use`.
 */
export async function keepToOneProgram(folder: string): Promise<() => Promise<void>> {
  const mark = sha256Hex(asciiBytes(encodeURI(resolve(folder)))).slice(0, 24)
  const path =
    process.platform === 'win32'
      ? `\\\\.\\pipe\\bench-wake-${mark}`
      : join(tmpdir(), `bench-wake-${mark}.sock`)
  if (await answers(path)) {
    throw new Problem({
      kind: 'folder-in-use',
      thing: folder,
      says: 'another Bench Wake works with this folder',
      remedy:
        'Use the one that runs, or wait: asked to end, it brings its writes to a safe point first. For a second one set BENCH_WAKE_DATA to a folder of its own.',
    })
  }
  try {
    unlinkSync(path)
  } catch {
    // Nothing was left there.
  }
  const server = createServer((socket) => socket.end())
  await new Promise<void>((done, fail) => {
    server.once('error', fail)
    server.listen(path, done)
  })
  // It keeps nothing alive that would otherwise end.
  server.unref()
  return () => new Promise((done) => server.close(() => done()))
}

function answers(path: string): Promise<boolean> {
  return new Promise((resolveWith) => {
    const socket = connect(path)
    const end = (there: boolean) => {
      socket.destroy()
      resolveWith(there)
    }
    socket.setTimeout(answerMs, () => end(false))
    socket.once('connect', () => end(true))
    socket.once('error', () => end(false))
  })
}
