/** One place at which two profiles differ, by its path: `components.0.version.scheme`. */
export interface ProfileChange {
  at: string
  /** Undefined where the place is new. */
  before?: unknown
  /** Undefined where the place is gone. */
  after?: unknown
}

const named = ['id', 'field', 'major', 'name'] as const

/**
 * Where two documents differ. Entries of a list that carry a name (`id`, `field`, `major`, `name`) are matched by it,
 * so that an inserted component is one change and not a change of all after it.
 */
export function compareProfiles(before: unknown, after: unknown): ProfileChange[] {
  const changes: ProfileChange[] = []
  walk(before, after, '', changes)
  return changes
}

function walk(before: unknown, after: unknown, at: string, changes: ProfileChange[]): void {
  if (before === after) return
  if (Array.isArray(before) && Array.isArray(after)) {
    const key = named.find((name) => [...before, ...after].every((each) => isRecord(each) && name in each))
    if (key === undefined) {
      for (let index = 0; index < Math.max(before.length, after.length); index++) {
        walk(before[index], after[index], join(at, String(index)), changes)
      }
      return
    }
    const nameOf = (each: unknown) => String((each as Record<string, unknown>)[key])
    const old = new Map(before.map((each) => [nameOf(each), each]))
    const fresh = new Map(after.map((each) => [nameOf(each), each]))
    for (const [name, each] of old) walk(each, fresh.get(name), join(at, name), changes)
    for (const [name, each] of fresh) if (!old.has(name)) walk(undefined, each, join(at, name), changes)
    const shared = (names: Iterable<string>) => [...names].filter((name) => old.has(name) && fresh.has(name))
    if (shared(old.keys()).join('\n') !== shared(fresh.keys()).join('\n')) {
      changes.push({
        at: join(at, 'order'),
        before: [...old.keys()].join(', '),
        after: [...fresh.keys()].join(', '),
      })
    }
    return
  }
  if (isRecord(before) && isRecord(after)) {
    for (const key of new Set([...Object.keys(before), ...Object.keys(after)])) {
      walk(before[key], after[key], join(at, key), changes)
    }
    return
  }
  changes.push({
    at,
    ...(before === undefined ? {} : { before }),
    ...(after === undefined ? {} : { after }),
  })
}

const join = (at: string, key: string) => (at === '' ? key : `${at}.${key}`)
const isRecord = (value: unknown): value is Record<string, unknown> =>
  value !== null && typeof value === 'object' && !Array.isArray(value)
