import { Problem } from '@bench-wake/core/kernel'

/** What works on a job and its unit. */
export interface Busy {
  job: string
  run?: string
}
const keyOf = (what: 'job' | 'unit', id: string) => `${what} ${id}`

/** Jobs and units that a run works on, whatever its port: one run a job and one a unit. */
export class BusyWith {
  private readonly marks = new Map<string, Busy>()

  mark(what: 'job' | 'unit', id: string, busy: Busy): void {
    this.marks.set(keyOf(what, id), busy)
  }

  has(what: 'job' | 'unit', id: string): boolean {
    return this.marks.has(keyOf(what, id))
  }

  /** Takes away all that one run was marked with. */
  free(mark: Busy): void {
    for (const [key, busy] of this.marks) if (busy === mark) this.marks.delete(key)
  }

  /** @throws Problem `run-under-way` that names the run. */
  refuse(what: 'job' | 'unit', id: string): void {
    const busy = this.marks.get(keyOf(what, id))
    if (!busy) return
    throw new Problem({
      kind: 'run-under-way',
      thing: id,
      says: what === 'job' ? 'a run of this job is under way' : 'this unit is being worked on by another run',
      found: busy.run ?? busy.job,
      remedy: 'Open that run and bring it to its end first.',
    })
  }
}
