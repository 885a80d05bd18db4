import { serveStatic } from '@hono/node-server/serve-static'
import { Hono } from 'hono'
import { compress } from 'hono/compress'
import { existsSync, readFileSync } from 'node:fs'
import { join, relative } from 'node:path'
import type { Database } from './db/open'
import { openApi } from './openapi'
import { answerProblem, notFound } from './problem'
import { families } from './routes/families'
import { fit } from './routes/fit'
import { images } from './routes/images'
import { jobs } from './routes/jobs'
import { logbook } from './routes/logbook'
import { runs } from './routes/runs'
import { sumRoutes } from './routes/sums'
import { units } from './routes/units'
import { house } from './routes/house'
import { requests } from './routes/requests'
import type { Runner } from './runner'
import type { Shelf } from './store/shelf'
import type { Heavy } from './worker/heavy'

export interface Services {
  db: Database
  shelf: Shelf
  heavy: Heavy
  runner: Runner
}

export const version = '0.1.0'

const places: Record<string, string> = {
  images: 'Images on the shelf, by their content',
  families: 'Family profiles',
  units: 'Units and what they said of themselves',
  fit: 'Whether an image fits a unit, and the way there',
  requests: 'What was asked of suppliers, and what they answered',
  house: 'How this house works where a family leaves it open',
  jobs: 'Jobs and their gates',
  runs: 'Runs: start, follow, answer, abandon',
  logbook: 'The record of every run',
  sums: 'Calculators, the same functions as the gates use',
  ports: 'Serial ports and stand-ins',
  health: 'Whether the program is well',
}

/** The public paths, as docs/architecture.md lists them. */
function api(services: Services) {
  const { runner } = services
  return new Hono()
    .route('/images', images(services))
    .route('/families', families(services))
    .route('/units', units(services))
    .route('/fit', fit(services))
    .route('/requests', requests(services))
    .route('/house', house(services))
    .route('/jobs', jobs(services))
    .route('/runs', runs(services))
    .route('/logbook', logbook(services))
    .route('/sums', sumRoutes())
    .get('/ports', async (c) => c.json(await runner.listPorts()))
    .get('/health', (c) =>
      c.json({ ok: true, name: 'Bench Wake', version, running: runner.running().length }),
    )
}

/** The paths' types, for the typed client. */
export type Api = ReturnType<typeof api>

/**
 * The whole server: the paths under /api, and the built page for everything else.
 * @param pageFolder built page; without it only /api is served.
 */
export function createApp(services: Services, pageFolder?: string): Hono {
  const app = new Hono()
  app.onError((error, c) => answerProblem(c, error))
  const paths = api(services)
  app.route('/api', paths)
  app.get('/api/openapi.json', (c) => c.json(openApi(paths.routes, places, version)))
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
    app.get('*', (c) => c.html(page, 200, { 'cache-control': 'no-cache' }))
  }
  return app
}
