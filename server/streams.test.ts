import { until } from '@bench-wake/testing/until'
import { request, type ClientRequest, type IncomingMessage } from 'node:http'
import { expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'
import { maxStreamsEach } from './streams'

it('live views are bounded for a client, health answers meanwhile, and what is closed makes room again', async () => {
  const server = await demoServer(seededFolder())
  const asked: ClientRequest[] = []
  try {
    const { id } = (
      await server.send('POST', '/runs', { jobId: 'job-fog-07', port: 'stand-in:fog-07', speed: 0 })
    ).body
    const open = () =>
      new Promise<IncomingMessage>((done, fail) => {
        const one = request(`${server.base}/runs/${id}/live`, { agent: false }, done)
        one.once('error', fail)
        one.end()
        asked.push(one)
      })
    const answers = await Promise.all(Array.from({ length: maxStreamsEach + 20 }, open))
    for (const answer of answers) answer.on('error', () => {}).resume()
    const counts = answers.map(({ statusCode }) => statusCode)
    expect(counts.filter((status) => status === 200)).toHaveLength(maxStreamsEach)
    expect(counts.filter((status) => status === 429)).toHaveLength(20)
    expect((await server.get('/health')).status).toBe(200)

    for (const one of asked) one.on('error', () => {}).destroy()
    await until(async () => {
      const answer = await open()
      answer.on('error', () => {}).resume()
      return answer.statusCode === 200
    }, 'A stream that is free again')
  } finally {
    for (const one of asked) one.on('error', () => {}).destroy()
    await server.stop()
  }
})

it.each(['/lent/nothing/calls', '/runs/nothing/live', '/ports/trace/live?port=nothing'])(
  'nothing is streamed of what is not here: %s',
  async (path) => {
    const server = await demoServer(seededFolder())
    try {
      const { status, type, body } = await server.get(path)
      expect([status, type]).toEqual([404, 'application/problem+json'])
      expect(body.remedy).toBeTruthy()
    } finally {
      await server.stop()
    }
  },
)
