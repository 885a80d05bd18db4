// Loaded into the program before it starts: tells its longest turn of the event loop since it was asked last, ms, on SIGUSR2.
import { monitorEventLoopDelay } from 'node:perf_hooks'
import { isMainThread } from 'node:worker_threads'

if (isMainThread) {
  const delay = monitorEventLoopDelay({ resolution: 1 })
  delay.enable()
  process.on('SIGUSR2', () => {
    process.stdout.write(`longest turn ${delay.max / 1e6}\n`)
    delay.reset()
  })
}
