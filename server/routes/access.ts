import { AccessState, Session } from '../answers/access'
import { Done, gives } from './gives'
import { Hono } from 'hono'
import * as v from 'valibot'
import type { Services } from '../app'
import { maxPassword } from '../access/passwords'
import { addressOf, giveCookie, secretOf, sessionOf, takeCookie } from '../access/guard'
import { ownNames } from '../door'
import { notFound } from '../problem'
import { personName, text, valid } from './validate'

const device = text(60)
const person = personName

/** Who may use a program that others can reach: signing in, a second device, signing out. */
export const access = ({ reach }: Services) => {
  const { access: own, secure, host, names } = reach
  /** @throws Problem `not-found` where nobody has to sign in. */
  const needed = () => {
    if (!own) throw notFound('sign-in', 'this program is only for this computer')
    return own
  }
  return new Hono()
    .get('/', gives(AccessState), (c) => {
      const session = sessionOf(c)
      const state: AccessState = {
        needed: own !== null,
        session: session ?? null,
        encrypted: own === null || secure,
        names: session ? [...ownNames(host, names)].filter((name) => !isLoopbackName(name)) : [],
      }
      return c.json(state)
    })
    .post(
      '/sign-in',
      gives(Done),
      valid('json', v.object({ password: v.pipe(v.string(), v.maxLength(maxPassword)), person, device })),
      async (c) => {
        giveCookie(c, await needed().signIn(c.req.valid('json'), addressOf(c), secretOf(c, secure)), secure)
        return c.json({ ok: true })
      },
    )
    .post('/pair', gives(Done), valid('json', v.object({ code: text(80), person, device })), async (c) => {
      giveCookie(c, await needed().pair(c.req.valid('json'), addressOf(c)), secure)
      return c.json({ ok: true })
    })
    .post('/pairings', gives(v.object({ code: v.string(), endsAt: v.number() }), 201), (c) => {
      const offered = needed().offerPairing(sessionOf(c)!.id)
      return c.json(offered, 201)
    })
    .post('/sign-out', gives(Done), async (c) => {
      await needed().end(sessionOf(c)!.id)
      takeCookie(c, secure)
      return c.json({ ok: true })
    })
    .get('/devices', gives(v.array(Session)), async (c) => c.json(await needed().devices()))
    .delete('/devices/:id', gives(v.array(Session)), async (c) => {
      await needed().endDevice(c.req.param('id'))
      return c.json(await needed().devices())
    })
}

const isLoopbackName = (name: string) =>
  name === 'localhost' || name === '[::1]' || /^127\.|^\[fe80|^\[::1/.test(name)
