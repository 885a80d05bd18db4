import { dayAt } from '@bench-wake/core/kernel'
import { demoAdapters, demoBenches } from '@bench-wake/demo'
import { inZone } from '@bench-wake/testing/in-zone'
import { afterAll, describe, expect, it } from 'vitest'
import { demoServer, seededFolder } from './server.test-support'

const server = await demoServer(seededFolder())
afterAll(() => server.stop())

const dayAhead = (days: number) => dayAt(Date.now(), days)
const gate = async (job: string, id: string) =>
  (await server.get(`/jobs/${job}/ready`)).body.gates.find((each: { id: string }) => each.id === id)

describe('the drawer of cables and adapters', () => {
  it('keeps what is put in, and refuses two pins of one name', async () => {
    const before = (await server.get('/adapters')).body
    expect(before.map(({ id }: { id: string }) => id).sort()).toEqual(demoAdapters.map(({ id }) => id).sort())
    const own = { ...demoAdapters[0]!, id: 'new-one', name: 'New one' }
    expect((await server.send('PUT', '/adapters', own)).status).toBe(200)
    expect((await server.get('/adapters')).body).toHaveLength(before.length + 1)
    const twins = { ...own, pins: [own.pins[0]!, own.pins[0]!] }
    expect(await server.send('PUT', '/adapters', twins)).toMatchObject({
      status: 400,
      body: { place: { at: 'pins' } },
    })
    expect((await server.send('PUT', '/adapters', { ...own, id: 'Bad Id' })).status).toBe(400)
    expect((await server.send('DELETE', '/adapters/new-one', {})).status).toBe(200)
    expect((await server.send('DELETE', '/adapters/new-one', {})).status).toBe(404)
  })
  it('does not let go of one that a job’s wiring rests on', async () => {
    const { status, body } = await server.send('DELETE', '/adapters/fog-cable', {})
    expect(status).toBe(400)
    expect(body).toMatchObject({ found: 'job-fog-07', remedy: expect.stringContaining('known bad') })
  })
})

// PRACTICE C1, common practice: a missing one stops the job, so it is looked up before the drive out.
describe('the kit of a day', () => {
  it('holds tomorrow’s job today, until all that is essential is packed', async () => {
    // What tomorrow was when the scenario was seeded may be today by now.
    await server.send('PATCH', '/jobs/job-davit-1', { day: { to: dayAhead(1), by: 'A. Lund' } })
    const list = (await server.get(`/kit/${dayAhead(1)}`)).body
    expect(list.jobs.map(({ id }: { id: string }) => id)).toContain('job-davit-1')
    expect((await gate('job-davit-1', 'kit')).verdict).toBe('hold')
    const headline = async () => (await server.get('/jobs/job-davit-1')).body.headline
    expect((await headline()).says).toMatch(/things are not packed/)
    for (const item of list.items) {
      await server.send('PUT', `/kit/${dayAhead(1)}`, { item: item.id, packed: true })
    }
    expect((await gate('job-davit-1', 'kit')).verdict).toBe('go')
    expect((await headline()).says).not.toMatch(/packed/)
  })
  // Source: IANA time zones: Kiritimati is 14 hours before universal time, Pago Pago 11 behind it.
  it('is that of tomorrow as the people at the bench count it, on either side of the date line', async () => {
    const zone = new Date().getUTCHours() < 11 ? 'Pacific/Pago_Pago' : 'Pacific/Kiritimati'
    const there = new Intl.DateTimeFormat('sv-SE', { timeZone: zone })
    await inZone(zone, async () => {
      const own = await demoServer(seededFolder())
      const dayIs = (to: string) => own.send('PATCH', '/jobs/job-fog-07', { day: { to, by: 'A. Lund' } })
      const kit = async () =>
        (await own.get('/jobs/job-fog-07/ready')).body.gates.find(({ id }: { id: string }) => id === 'kit')
      const tomorrow = there.format(Date.now() + 86_400_000)
      await dayIs(tomorrow)
      await own.send('PUT', `/kit/${tomorrow}`, { item: 'multimeter', packed: false })
      expect((await own.get('/jobs/job-fog-07')).body.headline.says).toMatch(/not packed/)
      expect((await kit()).verdict).toBe('hold')
      // The day after that is nothing to pack for yet.
      await dayIs(there.format(Date.now() + 2 * 86_400_000))
      expect((await own.get('/jobs/job-fog-07')).body.headline.says).not.toMatch(/not packed/)
      expect((await kit()).verdict).toBe('note')
      await own.stop()
    })
  })
  it('refuses what is no day', async () => {
    expect((await server.get('/kit/tomorrow')).status).toBe(400)
  })
})

// PRACTICE F4, common practice.
describe('a scan of the bus', () => {
  it('counts the stand-in’s neighbours until they are unplugged, and the gate follows', async () => {
    const job = 'job-inverter-1'
    const scan = () => server.send('POST', `/jobs/${job}/scan`, { port: 'stand-in:inverter-1' })
    const first = (await scan()).body
    expect(first.scan.garbled).toEqual([1])
    expect(first.scan.found.map(({ address }: { address: number }) => address)).toEqual([3])
    const shut = await gate(job, 'isolation')
    expect(shut.verdict).toBe('stop')
    expect(shut.numbers).toEqual({ unitsOnBus: 3 })

    const unplugged = ['second-inverter', 'monitor']
    await server.send('PUT', `/jobs/${job}/bench`, { isolation: { unplugged } })
    const then = (await scan()).body
    expect(then.scan).toMatchObject({ found: [{ address: 1, product: 'LI' }], garbled: [] })
    expect((await gate(job, 'isolation')).verdict).toBe('go')
  })
  it('is refused where the link cannot ask', async () => {
    const { status, body } = await server.send('POST', '/jobs/job-launch-2/scan', {
      port: 'stand-in:inverter-1',
    })
    expect(status).toBe(400)
    expect(body.says).toMatch(/cannot ask who is there/)
  })
})

describe('the cable of a stand-in', () => {
  it('pulled takes its port off the list, and the gate says so', async () => {
    const port = 'stand-in:fog-02'
    const listed = async () => (await server.get('/ports')).body.some(({ id }: { id: string }) => id === port)
    expect(await listed()).toBe(true)
    await server.send('PUT', '/ports/cables', { port, joined: false })
    expect(await listed()).toBe(false)
    const { gates } = (await server.get(`/jobs/job-fog-02/ready?port=${port}`)).body
    const own = gates.find(({ id }: { id: string }) => id === 'port')
    expect(own).toMatchObject({ verdict: 'stop' })
    expect(own.findings[0].says).toMatch(/is not there/)
    await server.send('PUT', '/ports/cables', { port, joined: true })
    expect(await listed()).toBe(true)
    expect((await server.send('PUT', '/ports/cables', { port: 'stand-in:none', joined: true })).status).toBe(
      404,
    )
  })
})

describe('what is said of a bench', () => {
  it('is kept part by part; a part that is not sent stays', async () => {
    const job = 'job-tide-2'
    await server.send('PUT', `/jobs/${job}/bench`, demoBenches['tide-logger'])
    await server.send('PUT', `/jobs/${job}/bench`, { celsius: 4 })
    const { bench } = (await server.get(`/jobs/${job}`)).body
    expect(bench).toMatchObject({
      celsius: 4,
      wiring: { adapterId: 'usb-lead' },
      order: ['lid-dry', 'cable-in'],
    })
    await server.send('PUT', `/jobs/${job}/bench`, { celsius: null })
    expect((await server.get(`/jobs/${job}`)).body.bench.celsius).toBeNull()
    const bad = await server.send('PUT', `/jobs/${job}/bench`, { wiring: { linkId: 'usb', joins: [['1']] } })
    expect(bad.status).toBe(400)
  })
  it('has the times learned from the family’s proved runs, with their count', async () => {
    const { time, plan } = (await server.get('/jobs/job-fog-07')).body
    // The demo’s past holds one run that was cut and one that was proved.
    expect(time.learnedFrom).toBe(1)
    expect(time.minMs).toBeLessThan(time.totalMs)
    expect(time.maxMs).toBeGreaterThan(time.totalMs)
    expect(time.personMs + time.aloneMs).toBeCloseTo(time.totalMs, 3)
    expect(plan.every((step: { minMs: number; maxMs: number }) => step.minMs <= step.maxMs)).toBe(true)
  })
  it('offers the volts that the unit itself says', async () => {
    await server.send('POST', '/units/fog-07/snapshots', { port: 'stand-in:fog-07' })
    const { supplySaid } = (await server.get('/jobs/job-fog-07')).body
    expect(supplySaid.volts).toBeGreaterThan(11)
    expect(supplySaid.volts).toBeLessThan(13)
  })
})

// PRACTICE E, F2, L2.
describe('entry and practice', () => {
  it('does not take running firmware for the bootloader', async () => {
    const heard = await server.send('POST', '/jobs/job-fog-07/listen', { port: 'stand-in:fog-07' })
    expect(heard).toMatchObject({ status: 200, body: { answered: false } })
  })
  it('keeps what it was when a unit did not answer, by family', async () => {
    const cause = { familyId: 'mains-relay', jobId: 'job-tide-2', cause: 'bad-contact' }
    expect((await server.send('POST', '/causes', cause)).status).toBe(201)
    expect((await server.get('/causes/mains-relay')).body).toMatchObject([{ cause: 'bad-contact' }])
    expect((await server.get('/causes/fog-signal')).body).toEqual([])
    expect((await server.send('POST', '/causes', { ...cause, cause: 'moonlight' })).status).toBe(400)
  })
  it('keeps practices, and refuses more points than there are', async () => {
    const practice = {
      exerciseId: 'fault-sag',
      by: 'A. Lund',
      help: 'full',
      unsafe: 0,
      wrong: 1,
      tookMs: 40_000,
      score: 90,
    }
    expect((await server.send('POST', '/drills', practice)).status).toBe(201)
    expect((await server.get('/drills')).body).toMatchObject([practice])
    expect((await server.send('POST', '/drills', { ...practice, score: 101 })).status).toBe(400)
  })
})

// PRACTICE D3: one laptop carries every job and run.
describe('the laptop', () => {
  const gateOf = async (job: string) => {
    const { gates } = (await server.get(`/jobs/${job}/ready`)).body
    return gates.find(({ id }: { id: string }) => id === 'laptop')
  }
  it('is said once, in any job, and holds for all of them', async () => {
    const said = await server.send('PUT', '/jobs/job-fog-07/bench', {
      laptop: { onMains: false, minutesLeft: 1 },
    })
    expect(said.status).toBe(200)
    expect(await gateOf('job-launch-2')).toMatchObject({ verdict: 'stop' })
    const mains = await server.send('PUT', '/laptop', { onMains: true, minutesLeft: null })
    expect(mains.body.gate.verdict).toBe('go')
    expect(await gateOf('job-launch-2')).toMatchObject({ verdict: 'go' })
    expect(await gateOf('job-fog-07')).toMatchObject({ verdict: 'go' })
    expect((await server.send('PUT', '/laptop', { onMains: 'yes' })).status).toBe(400)
  })
})

// PRACTICE I4: every write of every component, in order, before the first byte.
describe('the whole plan', () => {
  it('names every joint of the davit in its order, each with its steps', async () => {
    const { unit, fit, left } = (await server.get('/jobs/job-davit-1')).body
    expect(unit.id).toBe('davit-1')
    const { writes, time } = (await server.get('/jobs/job-davit-1/plan')).body
    const joints = ['joint-0', 'joint-1', 'joint-2', 'joint-3', 'joint-4', 'joint-5']
    const hops = writes.flatMap((write: { hops: unknown[] }) => write.hops)
    expect(hops).toHaveLength(fit.path.length)
    expect(hops).toEqual(left)
    for (const { steps, hops: together } of writes) {
      // PRACTICE A5: all joints of a release in one stay, base to wrist.
      expect(together.map(({ componentId }: { componentId: string }) => componentId)).toEqual(joints)
      expect(new Set(together.map(({ to }: { to: string }) => to)).size).toBe(1)
      const kinds = steps.map(({ kind }: { kind: string }) => kind)
      expect(kinds.filter((kind: string) => kind === 'enter')).toHaveLength(1)
      expect(kinds.filter((kind: string) => kind === 'write')).toHaveLength(6)
      expect(kinds).toEqual(
        expect.arrayContaining(['compare', 'dry-run', 'erase', 'write', 'verify', 'prove']),
      )
    }
    const sum = writes.reduce(
      (total: number, write: { time: { totalMs: number } }) => total + write.time.totalMs,
      0,
    )
    expect(time.totalMs).toBeCloseTo(sum, 3)
  })
  it('is empty where no image is chosen', async () => {
    expect((await server.get('/jobs/job-fog-04/plan')).body.writes).toEqual([])
    expect((await server.get('/jobs/nowhere/plan')).status).toBe(404)
  })
})
