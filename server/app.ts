import { gives } from './routes/gives'
import { Problem } from '@bench-wake/core/kernel'
import { serveStatic } from '@hono/node-server/serve-static'
import { Hono } from 'hono'
import { compress } from 'hono/compress'
import { existsSync, readFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import * as v from 'valibot'
import type { DataKeeper } from './data-folder/data-keeper'
import type { Database } from './db/open'
import { TextDamaged } from './db/stored-text'
import { door, pageRules } from './door'
import { boundNesting } from './nesting'
import { openApi } from './openapi'
import { answerProblem, notFound } from './problem'
import type { Access } from './access/access'
import { guard } from './access/guard'
import { access } from './routes/access'
import { adapters } from './routes/adapters'
import { cases } from './routes/cases'
import { causes } from './routes/causes'
import { data } from './routes/data'
import { definitions } from './routes/definitions'
import { drills } from './routes/drills'
import { families } from './routes/families'
import { fit } from './routes/fit'
import { images } from './routes/images'
import { jobs } from './routes/jobs'
import { kit } from './routes/kit'
import { lent } from './routes/lent'
import { laptop } from './routes/laptop'
import { meter } from './routes/meter'
import { logbook } from './routes/logbook'
import { runs } from './routes/runs'
import { sumRoutes } from './routes/sums'
import { units } from './routes/units'
import { workshopRules } from './routes/workshop-rules'
import { ports } from './routes/ports'
import { requests } from './routes/requests'
import { atMost } from './routes/uploads'
import type { LentPorts } from './ports/lent'
import type { PortRoom } from './ports/port-room'
import type { Recordings } from './rounds/recordings'
import type { Runs } from './runs/runs'
import type { Shelf } from './store/shelf'
import { keepRefusal } from './store/refusals'
import { boundStreams } from './streams'
import type { Downloads } from './worker/downloads'
import type { WorkerThread } from './worker/worker-thread'
import type { WriteGate } from './write-gate'

export interface Services {
  db: Database
  shelf: Shelf
  worker: WorkerThread
  downloads: Downloads
  runs: Runs
  room: PortRoom
  lentPorts: LentPorts
  dataKeeper: DataKeeper
  recordings: Recordings
  /** Where files that are sent lie until they are read. */
  incoming: string
  reach: Reach
  gate: WriteGate
}

/** Who can reach the program, and how. */
export interface Reach {
  host: string
  /** Names by which a program in front asks for it. */
  names: readonly string[]
  /** Null where only this computer asks, and nobody signs in. */
  access: Access | null
  /** What is sent is encrypted, here or in front. */
  secure: boolean
}

export const version = '0.1.0'

/** Most bytes of a JSON body; forms with files have the limits of their routes. */
const jsonBytes = 1024 * 1024

const places: Record<string, string> = {
  images: 'Images on the shelf, by their content',
  families: 'Family profiles',
  units: 'Units and what they said of themselves',
  fit: 'Whether an image fits a unit, and the way there',
  requests: 'What was asked of suppliers, and what they answered',
  'workshop-rules': 'Workshop rules: what holds where a family leaves it open',
  jobs: 'Jobs and their gates',
  meter: 'The meter of this bench, at a port of its own',
  laptop: 'Whether the laptop lasts for every run under way',
  runs: 'Runs: start, follow, answer, abandon',
  cases: 'Calibration by rounds: images, logs and answers of a unit',
  definitions: 'Table definitions of calibration images',
  logbook: 'The record of every run',
  adapters: 'Cables and adapters of your workshop',
  kit: 'What to take along on a day, and what is packed',
  causes: 'Why units did not answer at this bench',
  drills: 'What was practised on stand-ins',
  sums: 'Calculators, the same functions as the gates use',
  ports: 'Serial ports and stand-ins',
  lent: 'Ports that a page lends from its own computer',
  data: 'The data of this bench: backups, and rows that could not be read',
  access: 'Who may use a program that others can reach',
  health: 'Whether the program is well',
}

/** The public paths, as docs/architecture.md lists them. */
export function api(services: Services) {
  const { runs: underWay, dataKeeper } = services
  return new Hono()
    .route('/images', images(services))
    .route('/families', families(services))
    .route('/units', units(services))
    .route('/fit', fit(services))
    .route('/requests', requests(services))
    .route('/workshop-rules', workshopRules(services))
    .route('/jobs', jobs(services))
    .route('/runs', runs(services))
    .route('/laptop', laptop(services))
    .route('/meter', meter(services))
    .route('/cases', cases(services))
    .route('/definitions', definitions(services))
    .route('/logbook', logbook(services))
    .route('/adapters', adapters(services))
    .route('/kit', kit(services))
    .route('/drills', drills(services))
    .route('/causes', causes(services))
    .route('/sums', sumRoutes())
    .route('/ports', ports(services))
    .route('/lent', lent(services))
    .route('/data', data(services))
    .route('/access', access(services))
    .get(
      '/health',
      gives(
        v.object({
          ok: v.literal(true),
          name: v.string(),
          version: v.string(),
          running: v.number(),
          damaged: v.number(),
        }),
      ),
      (c) =>
        c.json({
          ok: true,
          name: 'Bench Wake',
          version,
          running: underWay.running().length,
          damaged: dataKeeper.damaged(),
        }),
    )
}

/** The paths' types, for the typed client. */
export type Api = ReturnType<typeof api>

/** The OpenAPI document of the public paths. */
export const documentOf = (paths: Hono) => openApi(paths, places, version)
let document: ReturnType<typeof documentOf> | undefined

/** A row that could not be read in the middle of the work is set aside, so that the next try does not meet it. */
async function asideOf({ dataKeeper, shelf }: Services, error: unknown): Promise<Problem | undefined> {
  if (!(error instanceof SyntaxError || error instanceof v.ValiError || error instanceof TextDamaged))
    return undefined
  const count = await dataKeeper.setAside().catch(() => 0)
  if (count === 0) return undefined
  shelf.forget()
  return new Problem({
    kind: 'row-damaged',
    says: 'a row of the data could not be read and was set aside',
    found: `${count} row(s)`,
    remedy: 'Try again. See "This bench’s data" for what it was and how to bring it back.',
  })
}

/**
 * The whole server: the paths under /api, and the built page for everything else.
 * @param pageFolder built page; without it only /api is served.
 */
export function createApp(services: Services, pageFolder?: string): Hono {
  const app = new Hono()
  const { host, names, access: own, secure } = services.reach
  app.use('*', pageRules(), door(host, names))
  if (own) app.use('*', guard(own, secure))
  app.use('/api/*', services.gate.guard())
  app.use('/api/*', boundStreams())
  const words = atMost(jsonBytes, 'this is more than the program takes at once', 'Send it in smaller parts.')
  app.use('/api/*', (c, next) =>
    c.req.header('content-type')?.startsWith('multipart/form-data') ? next() : words(c, next),
  )
  app.use('/api/*', boundNesting())
  const askedAgain = new WeakSet<Request>()
  app.onError(async (error, c) => {
    const unreadable = await asideOf(services, error)
    // With the damaged row set aside a look is answered at once, without that row.
    if (unreadable && c.req.method === 'GET' && !askedAgain.has(c.req.raw)) {
      askedAgain.add(c.req.raw)
      return app.fetch(c.req.raw, c.env)
    }
    // A disk that takes no more must not hide what was refused.
    await keepRefusal(services.db, `${c.req.method} ${c.req.path}`, error).catch(() => {})
    return answerProblem(c, unreadable ?? error)
  })
  const paths = api(services)
  app.route('/api', paths)
  app.get('/api/openapi.json', async (c) =>
    c.json(await (document ??= documentOf(new Hono().route('/api', paths)))),
  )
  app.all('/api/*', (c) => answerProblem(c, notFound('path', c.req.path)))
  if (pageFolder && existsSync(join(pageFolder, 'index.html'))) {
    const page = readFileSync(join(pageFolder, 'index.html'), 'utf8')
    app.use('*', compress())
    app.use('/assets/*', async (c, next) => {
      await next()
      // Names of built files hold their digest.
      if (c.res.ok) c.header('cache-control', 'public, max-age=31536000, immutable')
    })
    app.use('*', serveStatic({ root: relative(process.cwd(), pageFolder) || '.' }))
    // A file of another build is not there; the page in its place would be kept for one.
    app.get('/assets/*', (c) => c.text('Not found', 404, { 'cache-control': 'no-store' }))
    app.get('*', (c) => c.html(page, 200, { 'cache-control': 'no-cache' }))
  }
  return app
}
