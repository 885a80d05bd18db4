import type { Database } from '../db/open'
import { hostTime } from '../host-time'
import { debtsOf } from '../store/debts'
import { payDebts } from '../store/runs'

/** What the disk did not take is tried again this often, ms. */
const payEveryMs = 2000

/** Events that could not be written when they happened: tried again and again until they are on disk. */
export class OwedEvents {
  private callOff: (() => void) | undefined

  constructor(private readonly db: Database) {}

  add(runId: string, owed: Parameters<ReturnType<typeof debtsOf>['add']>[1]): void {
    debtsOf(this.db).add(runId, owed)
    this.payLater()
  }

  /** Tries once more and no further: the last chance before the program ends. */
  async end(): Promise<void> {
    this.callOff?.()
    await this.pay()
  }

  private payLater(): void {
    this.callOff ??= hostTime.after(payEveryMs, () => {
      this.callOff = undefined
      void this.pay().then((paid) => {
        if (!paid) this.payLater()
      })
    })
  }

  /** @returns whether nothing is owed any more. */
  private async pay(): Promise<boolean> {
    // What is refused again stays owed.
    for (const id of debtsOf(this.db).runs()) await payDebts(this.db, id).catch(() => {})
    return debtsOf(this.db).runs().length === 0
  }
}
