import { virtualClock } from '@bench-wake/core/kernel'
import { LibsqlError, type Client } from '@libsql/client'
import { expect, it } from 'vitest'
import { nextTurn } from '../host-time'
import { patientClient } from './patience'

/** A client that answers as told, call after call, and is waited for 300 ms. */
function client(...answers: (string | LibsqlError)[]) {
  let reconnected = 0
  const clock = virtualClock(nextTurn)
  const own = {
    closed: false,
    execute: async () => {
      const answer = answers.shift()!
      if (answer instanceof LibsqlError) throw answer
      return answer
    },
    reconnect: () => void reconnected++,
  }
  const patient = patientClient(own as unknown as Client, 300, clock)
  return { patient, own, clock, reconnected: () => reconnected }
}
const locked = new LibsqlError('database is locked', 'SQLITE_BUSY')
const dropped = new LibsqlError('closed in flight', 'CLIENT_CLOSED')

it('begins anew on another connection behind a lock, and behind a connection that was dropped under it', async () => {
  const { patient, reconnected } = client(locked, dropped, locked, 'kept')
  expect(await patient.execute('')).toBe('kept')
  expect(reconnected()).toBe(2)
})
it('gives up with the database’s own word, and leaves no spoilt connection behind', async () => {
  const { patient, clock, reconnected } = client(...Array<LibsqlError>(20).fill(locked))
  await expect(patient.execute('')).rejects.toBe(locked)
  expect(clock.now()).toBe(300)
  // Tried at once and after each pause, and each time the connection was dropped.
  expect(reconnected()).toBe(4)
})
it('tries nothing again that is no lock, nor on a client that was closed', async () => {
  const full = new LibsqlError('full', 'SQLITE_FULL')
  await expect(client(full, 'kept').patient.execute('')).rejects.toBe(full)
  const closed = client(dropped, 'kept')
  closed.own.closed = true
  await expect(closed.patient.execute('')).rejects.toBe(dropped)
})
