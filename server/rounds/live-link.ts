import type { Family } from '@bench-wake/core/family'
import type { Clock } from '@bench-wake/core/kernel'
import type { LinkDriver } from '@bench-wake/core/link'
import type { LiveLink, ShownLines } from '@bench-wake/core/rounds'
import { readSnapshot } from '@bench-wake/core/unit'

/** Ways in which an opened link gives figures. */
export function liveOf(driver: LinkDriver, family: Family, clock: Clock): LiveLink {
  const show = async (): Promise<ShownLines> => {
    const lines = driver.live ? await driver.live() : (await driver.page()).lines
    const page = readSnapshot(family, lines, clock.now(), 'link')
    // A line goes by the name that the profile gives it, by what stands before it on the unit, or by that of a script.
    return new Map(
      page.lines.flatMap(({ field, label, value }): [string, string][] => {
        const [, name, rest] = /^([^:=]{1,80})[:=](.*)$/.exec(value) ?? []
        return field.startsWith('other.')
          ? name === undefined
            ? []
            : [[name.trim(), rest!.trim()]]
          : [
              [label, value],
              [field, value],
            ]
      }),
    )
  }
  return { show, ...(driver.readData && { ask: (identifier: number) => driver.readData!(identifier) }) }
}
