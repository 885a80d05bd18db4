import type { Family } from '../family'
import { faultDrillsOf, type FaultKind } from './fault-drills'

/** How much the coach shows: everything, the window alone, or nothing. */
export const helps = ['full', 'window', 'none'] as const
export type Help = (typeof helps)[number]

/** Something to practise. */
export interface Exercise {
  id: string
  name: string
  kind: 'entry' | 'fault'
  /** The kind of equipment it is practised on. */
  familyId: string
  /** Of an entry. */
  wayId?: string
  /** Of a fault. */
  fault?: FaultKind
}

/** Every exercise there is: of each family each way in that has a script, and the faults its profile has the parts for. */
export function exercisesOf(families: readonly Family[]): Exercise[] {
  const entries = families.flatMap((family) =>
    family.entry.flatMap((way): Exercise[] =>
      way.script
        ? [
            {
              id: `entry-${family.id}-${way.id}`,
              name: `${family.name}: ${way.name}`,
              kind: 'entry',
              familyId: family.id,
              wayId: way.id,
            },
          ]
        : [],
    ),
  )
  return [
    ...entries,
    ...families.flatMap((family) =>
      faultDrillsOf(family).map(({ id, kind, familyId, name }): Exercise => ({
        id: `fault-${id}`,
        name: `${family.name}: ${name}`,
        kind: 'fault',
        familyId,
        fault: kind,
      })),
    ),
  ]
}

/** True where a practice was of this exercise. Until a fault drill told its family, its id was that of its kind alone. */
const isOf = ({ id, fault }: Exercise, { exerciseId }: Practice): boolean =>
  exerciseId === id || (fault !== undefined && exerciseId === `fault-${fault}`)

/** What one practice came to. */
export interface Practice {
  exerciseId: string
  by: string
  at: number
  help: Help
  /** Moves that could have broken a unit or hurt somebody. */
  unsafe: number
  /** Moves or tries that led nowhere. */
  wrong: number
  tookMs: number
  score: number
}

/**
 * Points of 100: safety first (60), then correctness (30), then time (10). One unsafe move takes all of safety; nobody
 * passes by being quick.
 * @param usualMs the time a practised person takes.
 */
export function scoreOf(form: { unsafe: number; wrong: number; tookMs: number; usualMs: number }): number {
  const safety = form.unsafe > 0 ? 0 : 60
  const right = Math.max(0, 30 - form.wrong * 10)
  const quick = Math.max(0, Math.min(10, 10 * (2 - form.tookMs / form.usualMs)))
  return Math.round(safety + right + quick)
}

/** From here on a practice counts as passed: safe, and at most one detour. */
export const passMark = 80

/** Days until the next practice after so many passes in a row: practice spaced over days holds better than in one go (from memory). */
export const spacingDays = [0, 1, 3, 7, 21, 60] as const

/** How well an exercise is mastered. */
export interface Standing {
  exercise: Exercise
  practices: number
  best: number | null
  /** Passes in a row, up to the newest. */
  streak: number
  /** When to practise it next, ms since 1970. */
  dueAt: number
  /** How much the coach shows next time. */
  help: Help
}

/** Where a person stands with each exercise, what is due first on top. */
export function standingsOf(
  exercises: readonly Exercise[],
  practices: readonly Practice[],
  now: number,
): Standing[] {
  const all = exercises.map((exercise): Standing => {
    const own = practices.filter((practice) => isOf(exercise, practice)).sort((a, b) => a.at - b.at)
    let streak = 0
    for (const { score } of own) streak = score >= passMark ? streak + 1 : 0
    const last = own[own.length - 1]
    const days = spacingDays[Math.min(streak, spacingDays.length - 1)]!
    return {
      exercise,
      practices: own.length,
      best: own.length ? Math.max(...own.map(({ score }) => score)) : null,
      streak,
      dueAt: last ? last.at + days * 86_400_000 : now,
      help: helps[Math.min(streak, helps.length - 1)]!,
    }
  })
  return all.sort((a, b) => a.dueAt - b.dueAt || a.streak - b.streak)
}
