import type { RunEnvironment } from './step-context'
import { JournalLost, type BodyOf } from './wake'

/** A disk that is slower than this is not waited for any longer: a bootloader that gets no byte gives up, ms. */
const patienceMs = 1000

/**
 * Records how far a step has come. The link carries the next block while the disk takes the record of this one, one
 * record behind; where the disk is slow, the records between are left out and the link goes on.
 * @param whenLost asked at each record that cannot be written: whether the step goes on without.
 */
export function progressRecord(
  { wake, clock }: Pick<RunEnvironment, 'wake' | 'clock'>,
  whenLost: () => 'go-on' | 'stop',
) {
  let underWay: Promise<void> | null = null
  let latest: BodyOf<'progress'> | null = null
  let lost: JournalLost | null = null

  const atMost = (pending: Promise<void>) =>
    new Promise<void>((done) => {
      const callOff = clock.after(patienceMs, done)
      void pending.then(() => {
        callOff()
        done()
      })
    })
  const begin = (body: BodyOf<'progress'>) => {
    underWay = wake
      .record(body)
      .then(
        () => {
          if (latest === body) latest = null
          lost = null
        },
        (error: unknown) => {
          lost = error instanceof JournalLost ? error : new JournalLost(error)
        },
      )
      .then(() => {
        underWay = null
      })
  }
  const judge = () => {
    if (lost && whenLost() === 'stop') throw lost
  }

  return {
    /** @throws JournalLost when an earlier record could not be written and the step is not to go on without. */
    async say(body: BodyOf<'progress'>): Promise<void> {
      if (underWay) await atMost(underWay)
      latest = body
      judge()
      if (!underWay) begin(body)
    },
    /** Resolves when the newest is on disk. @throws JournalLost when it is not and cannot be. */
    async settle(): Promise<void> {
      while (underWay) await underWay
      if (latest && !lost) {
        begin(latest)
        await underWay
      }
      if (lost) throw lost
    },
    /** What keeps the newest record from the disk; null when nothing does. */
    lost: () => lost,
    /** The newest that is not on disk. */
    unsaid: () => latest,
  }
}
