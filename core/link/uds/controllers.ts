import type { Component, DriveOf } from '../../family'
import type { LinkDriver } from '../drive/link-driver'
import { isSilence } from '../drive/link-driver'
import type { Loader } from '../loader'

type Drive = DriveOf<'uds'>

/** One controller of a link, as if it were alone on it. */
export interface OneController {
  /** Component that it holds; absent for the one that holds whatever no other does. */
  component?: string
  drive: Drive
}

/** The controllers on a link, the link's own first: what an entry does not say of its services is as for that one. */
export function controllersOf(drive: Drive): OneController[] {
  const { controllers = [], ...own } = drive
  const { speaks, bitsPerSecond, extended, padding, functionalId, requestId, answerId, addresses, ...first } =
    own
  // What it sends by itself, and its page, are its own.
  const { periodic: _periodic, page: _page, ...services } = first
  const bus = {
    speaks,
    bitsPerSecond,
    ...(extended === undefined ? {} : { extended }),
    ...(padding === undefined ? {} : { padding }),
    ...(functionalId === undefined ? {} : { functionalId }),
  }
  return [
    { drive: own },
    ...controllers.map(({ component, services: others = services, ...reached }) => ({
      component,
      drive: { ...bus, ...reached, ...others },
    })),
  ]
}

/**
 * Several controllers of one unit behind one adapter, each written by its own services. Their pages make one; of a further
 * controller that is silent no line is known, while silence of the first is the unit's.
 * @param all the link's own first, each over the same carrier.
 * @param component what the link was opened for.
 */
export function severalControllers(
  all: readonly { component?: string; driver: LinkDriver }[],
  component: Component,
): LinkDriver {
  const [own, ...further] = all.map(({ driver }) => driver) as [LinkDriver, ...LinkDriver[]]
  if (further.length === 0) return own
  const page = async () => {
    const { lines, inBootloader } = await own.page()
    for (const driver of further) {
      try {
        lines.push(...(await driver.page()).lines)
      } catch (error) {
        if (!isSilence(error)) throw error
      }
    }
    return { lines, inBootloader }
  }
  /** Those that were brought into the session that is written in: each has to start its own program again. */
  const stopped = new Set<Loader>()
  const loaderOf = ({ id }: Component): Loader => {
    const { loader } = (all.find((each) => each.component === id) ?? all[0]!).driver
    const { erase } = loader
    return {
      ...loader,
      identify: async () => (await page()).lines,
      attach() {
        stopped.add(loader)
        return loader.attach()
      },
      ...(erase && {
        erase(range, report) {
          stopped.add(loader)
          return erase(range, report)
        },
      }),
      write(address, bytes, report, abandon) {
        stopped.add(loader)
        return loader.write(address, bytes, report, abandon)
      },
      async startApplication() {
        for (const each of stopped.size > 0 ? stopped : [loader]) await each.startApplication()
        stopped.clear()
      },
    }
  }
  return {
    ...own,
    loader: loaderOf(component),
    loaderOf,
    page,
    withPerson(beside) {
      for (const { driver } of all) driver.withPerson?.(beside)
    },
    faults: {
      async read() {
        const said = []
        for (const { driver } of all) said.push(await driver.faults!.read())
        const codes = said.filter((each) => each !== 'none')
        return codes.length > 0 ? codes.join(', ') : 'none'
      },
      async clear() {
        for (const { driver } of all) await driver.faults!.clear()
      },
    },
  }
}
