import { realClock, type Clock } from '@bench-wake/core/kernel'
import { LibsqlError, type Client } from '@libsql/client'
import { hostTime } from '../host-time'

/** One try blocks the program for as long: short, so that a live write and every page go on meanwhile, ms. */
export const lockTryMs = 50
/** Between two tries, ms. */
const pauseMs = 100

/** What of a client acts on the database. */
export const statements: readonly string[] = ['execute', 'batch', 'migrate', 'executeMultiple']

const isLocked = (error: unknown) =>
  error instanceof LibsqlError && /^SQLITE_(BUSY|LOCKED)/.test(error.extendedCode ?? error.code)

const isDropped = (error: unknown) => error instanceof LibsqlError && error.code === 'CLIENT_CLOSED'

/**
 * A client that waits for another program's lock without stopping this one: the library's own waiting blocks the whole
 * process, and a unit that is being written gets no byte in that time.
 * @param patienceMs after this it gives up with the database's own word.
 * @param clock by which it waits; a test gives its own.
 */
export function patientClient(
  client: Client,
  patienceMs: number,
  clock: Clock = realClock(hostTime),
): Client {
  const patient =
    <Args extends unknown[], Answer>(act: (...args: Args) => Promise<Answer>) =>
    async (...args: Args): Promise<Answer> => {
      const until = clock.now() + patienceMs
      for (;;) {
        try {
          return await act(...args)
        } catch (error) {
          // What was refused for a lock changed nothing: a batch is taken back whole.
          // Another's connection was dropped under it before it began: it begins anew, at once.
          if (isDropped(error) && !client.closed) continue
          if (!isLocked(error)) throw error
          // The library leaves a statement that met a lock open on its connection, and what is written over that connection next
          // is said to be kept and is not: it is dropped, with the others that idle. Nothing here holds a transaction open.
          await client.reconnect()
          if (clock.now() >= until) throw error
        }
        await clock.sleep(pauseMs)
      }
    }
  return new Proxy(client, {
    get(target, name) {
      const member: unknown = Reflect.get(target, name, target)
      if (typeof member !== 'function') return member
      const own = (member as (...args: unknown[]) => Promise<unknown>).bind(target)
      return statements.includes(String(name)) ? patient(own) : own
    },
  })
}
