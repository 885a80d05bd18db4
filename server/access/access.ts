import { Problem } from '@bench-wake/core/kernel'
import { and, desc, eq, lt } from 'drizzle-orm'
import { createHash, randomBytes } from 'node:crypto'
import type { Database } from '../db/open'
import { sessions } from '../db/schema'
import { newId } from '../new-id'
import { notFound } from '../problem'
import { isPassword } from './passwords'

/** Somebody at a device that may use the program. */
export interface Session {
  id: string
  person: string
  device: string
  at: number
  seenAt: number
  endsAt: number
}

/** Without a word for a working day one signs in again; after a week in any case, ms (ASVS 5.0, 7.3). */
export const idleMs = 12 * 3_600_000
export const maxMs = 7 * 86_400_000
/** A code on a screen is taken by the device beside it, or not at all, ms. */
export const pairingMs = 3 * 60_000
/** So many wrong tries are free; then each waits twice as long as the one before (ASVS 5.0, 6.3.1). */
export const freeTries = 5
const firstWaitMs = 2000
const maxWaitMs = 5 * 60_000
/**
 * So many wrong tries from all addresses together are free, then one every so often: an attacker with many addresses guesses
 * no faster. A device beside a signed-in one still comes in by its code.
 */
export const freeTriesOfAll = 30
export const oneMoreOfAllMs = 2000
/** Use is noted this often, ms. */
const noteEveryMs = 60_000

const digestOf = (secret: string) => createHash('sha256').update(secret).digest('hex')
const newSecret = () => randomBytes(32).toString('base64url')

/** Who may use a program that others can reach. */
export class Access {
  private readonly wrong = new Map<string, { count: number; waitUntil: number }>()
  /** Wrong tries of all that are left, as they were at `lastWrong`. */
  private leftOfAll = freeTriesOfAll
  private lastWrong: number
  private readonly pairings = new Map<string, { by: string; endsAt: number }>()
  private readonly ended = new Map<string, Set<() => void>>()

  constructor(
    private readonly db: Database,
    private readonly now: () => number = Date.now,
    /** Time that is never set back: a clock that was must keep nobody waiting. */
    private readonly ticks: () => number = () => performance.now(),
  ) {
    this.lastWrong = this.ticks()
  }

  /**
   * @param from where the try comes from: tries are counted by it.
   * @param before the secret of this device's session so far: it ends when another begins.
   * @returns the secret of a new session, for its cookie.
   * @throws Problem `wrong-password`, `too-many-tries`.
   */
  async signIn(
    { password, person, device }: { password: string; person: string; device: string },
    from: string,
    before?: string,
  ): Promise<string> {
    this.refuseWaiting(from)
    this.refuseAll()
    // Counted before it is looked at: tries sent all at once count as well.
    const wrong = this.countWrong(from)
    this.leftOfAll--
    if (!(await isPassword(this.db, password))) {
      throw new Problem({
        kind: 'wrong-password',
        says: 'this is not the password',
        remedy:
          wrong.count > freeTries
            ? `Wait ${Math.ceil((wrong.waitUntil - this.ticks()) / 1000)} s before the next try. The person who started the program knows the password.`
            : 'Try again. The person who started the program knows the password.',
      })
    }
    this.wrong.delete(from)
    this.leftOfAll++
    const own = await this.session(before)
    if (own) await this.end(own.id)
    return this.begin(person, device)
  }

  private refuseWaiting(from: string): void {
    const wrong = this.wrong.get(from)
    if (!wrong || wrong.waitUntil <= this.ticks()) return
    throw new Problem({
      kind: 'too-many-tries',
      says: 'there were too many wrong tries from here',
      found: `${wrong.count}`,
      remedy: `Wait ${Math.ceil((wrong.waitUntil - this.ticks()) / 1000)} s, then try again.`,
    })
  }

  private refuseAll(): void {
    const now = this.ticks()
    this.leftOfAll = Math.min(freeTriesOfAll, this.leftOfAll + (now - this.lastWrong) / oneMoreOfAllMs)
    this.lastWrong = now
    if (this.leftOfAll >= 1) return
    throw new Problem({
      kind: 'too-many-tries',
      says: 'there were too many wrong tries from this network',
      remedy: `Wait ${Math.ceil(((1 - this.leftOfAll) * oneMoreOfAllMs) / 1000)} s, then try again; or scan a code of a device that is signed in.`,
    })
  }

  private countWrong(from: string): { count: number; waitUntil: number } {
    const count = (this.wrong.get(from)?.count ?? 0) + 1
    const waitMs = count <= freeTries ? 0 : Math.min(maxWaitMs, firstWaitMs * 2 ** (count - freeTries - 1))
    const wrong = { count, waitUntil: this.ticks() + waitMs }
    // What an attacker fills forgets the oldest; the counts of others are theirs.
    if (this.wrong.size > 10_000) this.wrong.delete(this.wrong.keys().next().value!)
    this.wrong.delete(from)
    this.wrong.set(from, wrong)
    return wrong
  }

  private async begin(person: string, device: string): Promise<string> {
    const secret = newSecret()
    const at = this.now()
    await this.db.delete(sessions).where(lt(sessions.endsAt, at))
    await this.db.insert(sessions).values({
      id: newId('device'),
      secretSha256: digestOf(secret),
      device,
      person,
      at,
      seenAt: at,
      endsAt: at + maxMs,
    })
    return secret
  }

  /** The session of a cookie's secret; null where there is none, or it is over. */
  async session(secret: string | undefined): Promise<Session | null> {
    if (!secret) return null
    const [row] = await this.db
      .select()
      .from(sessions)
      .where(eq(sessions.secretSha256, digestOf(secret)))
    const now = this.now()
    if (!row) return null
    if (row.endsAt <= now || row.seenAt + idleMs <= now) {
      await this.end(row.id)
      return null
    }
    if (now - row.seenAt > noteEveryMs)
      await this.db.update(sessions).set({ seenAt: now }).where(eq(sessions.id, row.id))
    const { secretSha256: _, ...session } = row
    return session
  }

  /** Every device that may use the program, the one that was seen last first. */
  async devices(): Promise<Session[]> {
    const rows = await this.db.select().from(sessions).orderBy(desc(sessions.seenAt))
    return rows.map(({ secretSha256: _, ...session }) => session)
  }

  /** @throws Problem `not-found`. */
  async endDevice(id: string): Promise<void> {
    if (!(await this.end(id))) throw notFound('device', id)
  }

  /** Ends a session and what is open for it. */
  async end(id: string): Promise<boolean> {
    const { rowsAffected } = await this.db.delete(sessions).where(and(eq(sessions.id, id)))
    for (const [code, { by }] of this.pairings) if (by === id) this.pairings.delete(code)
    const open = this.ended.get(id)
    this.ended.delete(id)
    for (const close of open ?? []) close()
    return rowsAffected > 0
  }

  /** Calls `close` when a session ends; call the result to end that. */
  whenEnded(id: string, close: () => void): () => void {
    const open = this.ended.get(id) ?? new Set()
    this.ended.set(id, open)
    open.add(close)
    return () => {
      open.delete(close)
      if (open.size === 0) this.ended.delete(id)
    }
  }

  /** A code that lets one more device in, once and soon. */
  offerPairing(by: string): { code: string; endsAt: number } {
    const ticks = this.ticks()
    for (const [code, { endsAt }] of this.pairings) if (endsAt <= ticks) this.pairings.delete(code)
    const code = newSecret()
    this.pairings.set(code, { by, endsAt: ticks + pairingMs })
    return { code, endsAt: this.now() + pairingMs }
  }

  /** @returns the secret of the new device's session. @throws Problem `no-pairing`, `too-many-tries`. */
  async pair(
    { code, person, device }: { code: string; person: string; device: string },
    from: string,
  ): Promise<string> {
    this.refuseWaiting(from)
    const offered = this.pairings.get(code)
    // Once: whoever comes second is not the device beside the screen.
    this.pairings.delete(code)
    if (!offered || offered.endsAt <= this.ticks()) {
      this.countWrong(from)
      throw new Problem({
        kind: 'no-pairing',
        says: 'this code is used up or out of date',
        remedy: 'Show a new code on the first device and scan it again.',
      })
    }
    return this.begin(person, device)
  }
}
