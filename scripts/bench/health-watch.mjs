// A thread beside a bench: asks for health every 200 ms and tells how long each answer took, whatever the bench itself is at.
import { parentPort, workerData } from 'node:worker_threads'

const { address } = workerData
setInterval(() => {
  const asked = performance.now()
  fetch(`${address}/api/health`).then(
    async (answer) => {
      await answer.text()
      parentPort.postMessage(performance.now() - asked)
    },
    () => {},
  )
}, 200)
