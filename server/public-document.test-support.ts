import { Hono } from 'hono'
import { api, documentOf, type Services } from './app'
import type { ApiDocument } from './hold-answers.test-support'

/** The document of the public paths, without a program behind them. */
export async function publicDocument(): Promise<ApiDocument> {
  const nobody = { reach: { host: '127.0.0.1', names: [], access: null, secure: false } }
  const paths = api(nobody as unknown as Services)
  return (await documentOf(new Hono().route('/api', paths))) as unknown as ApiDocument
}
