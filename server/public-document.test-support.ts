import { Hono } from 'hono'
import { api, documentOf, type Services } from './app'
import type { ApiDocument } from './hold-answers.test-support'

let made: Promise<ApiDocument> | undefined

/** The document of the public paths, without a program behind them; made once. */
export function publicDocument(): Promise<ApiDocument> {
  return (made ??= make())
}

async function make(): Promise<ApiDocument> {
  const nobody = { reach: { host: '127.0.0.1', names: [], access: null, secure: false } }
  const paths = api(nobody as unknown as Services)
  return (await documentOf(new Hono().route('/api', paths))) as unknown as ApiDocument
}
