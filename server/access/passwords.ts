import { hash, verify } from '@node-rs/argon2'
import { Problem } from '@bench-wake/core/kernel'
import { desc } from 'drizzle-orm'
import { randomInt } from 'node:crypto'
import type { Database } from '../db/open'
import { passwords, sessions } from '../db/schema'

/**
 * Argon2id with the least that OWASP's Password Storage Cheat Sheet names for it: 19 MiB, two passes, one lane; that is
 * the library's own choice of kind.
 */
const cost = { memoryCost: 19_456, timeCost: 2, parallelism: 1 }
/** ASVS 5.0, 6.2.1 and 6.2.9: eight characters at least, and at least 64 are taken. */
export const minPassword = 8
export const maxPassword = 128

/** Letters and digits that nobody mistakes for each other. */
const alphabet = 'abcdefghjkmnpqrstuvwxyz23456789'

/** Four groups of four: 79 bits, to be copied off a terminal. */
function newPassword(): string {
  const group = () => Array.from({ length: 4 }, () => alphabet[randomInt(alphabet.length)]!).join('')
  return [group(), group(), group(), group()].join('-')
}

/**
 * Sees to a password before others can reach the program: the one that is set, or the one that is kept, or a new one.
 * @param wanted as the setting says it.
 * @returns a new password, to be shown once; null where one was set or is kept already.
 * @throws Problem `input` for one that is too short.
 */
export async function preparePassword(db: Database, wanted: string | undefined): Promise<string | null> {
  const kept = await keptHash(db)
  if (wanted === undefined && kept !== null) return null
  const password = wanted ?? newPassword()
  if (password.length < minPassword || password.length > maxPassword) {
    throw new Problem({
      kind: 'input',
      place: { at: 'BENCH_WAKE_PASSWORD' },
      says: 'this is no password that keeps anybody out',
      expected: `${minPassword} to ${maxPassword} characters`,
      found: `${password.length} characters`,
      remedy: 'Set a longer one: a few words that nobody would guess.',
    })
  }
  if (kept !== null && (await verify(kept, password))) return null
  await db.insert(passwords).values({ hash: await hash(password, cost), at: Date.now() })
  // Who came in by the old one comes in anew.
  await db.delete(sessions)
  return wanted === undefined ? password : null
}

async function keptHash(db: Database): Promise<string | null> {
  const [row] = await db.select({ hash: passwords.hash }).from(passwords).orderBy(desc(passwords.id)).limit(1)
  return row?.hash ?? null
}

/** Whether this is the password. */
export async function isPassword(db: Database, password: string): Promise<boolean> {
  const kept = await keptHash(db)
  return kept !== null && password.length <= maxPassword && verify(kept, password)
}
