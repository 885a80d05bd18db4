import { pageLine, type Component, type DriveOf, type Family, type FamilyLink } from '../../family'
import { isProblem, type Clock } from '../../kernel'
import type { Person } from '../person'
import type { Port } from '../port'
import type { Loader } from '../loader'
import type { ScriptEvent } from './bench'
import { heardText } from './failures'
import { scriptDriver, scriptLoader, type ScriptDriver } from './script-loader'
import { isSilence, type LinkDriver } from '../drive/link-driver'

/** A unit on a serial line whose link is data: its operations say what is sent and awaited. */
export function scriptLinkDriver(
  port: Port,
  clock: Clock,
  family: Family,
  link: FamilyLink,
  script: DriveOf<'script'>,
  component: Component,
  trace?: (event: ScriptEvent) => void,
): LinkDriver {
  const show = (field: string, value: string) => {
    const lines = pageLine(family, field, value)
    return lines.length > 0 ? lines : [`${field}: ${value}`]
  }
  let person: Person | null = null
  const driverOf = (of: Component) =>
    scriptDriver(port, clock, script, of, link.line!, show, trace, () => person)
  const driver = driverOf(component)
  const { operations, slowerSpeeds } = script
  const line = link.line!
  let speed = line.baudRate
  const join = async (baudRate: number) => {
    await port.open({ ...line, baudRate })
    speed = baudRate
  }
  const loaderOver = (own: ScriptDriver): Loader => {
    const bare = scriptLoader(own, port.name)
    return {
      ...bare,
      async startApplication() {
        await bare.startApplication()
        // The firmware has one speed.
        if (speed !== line.baudRate) await join(line.baudRate)
      },
    }
  }
  const loader = loaderOver(driver)
  return {
    loader,
    loaderOf: (of) => loaderOver(driverOf(of)),
    ...(slowerSpeeds && {
      async slower() {
        const next = slowerSpeeds.find((each) => each < speed)
        if (next === undefined) return null
        await join(next)
        return next
      },
    }),
    async open() {
      await join(line.baudRate)
      if (script.opens) await port.setLines(script.opens)
    },
    close: () => port.close(),
    withPerson(beside) {
      person = beside
    },
    async page() {
      let first: unknown
      if (operations.page) {
        try {
          return { lines: (await driver.run('page')).lines, inBootloader: false }
        } catch (error) {
          if (!isProblem(error, 'unit-refused') && !isSilence(error)) throw error
          first = error
        }
      }
      if (!operations.attach) {
        if (first) throw first
        // Nothing that could be asked changes nothing: what it says of itself stays unknown.
        return { lines: [], inBootloader: false }
      }
      try {
        await loader.attach()
      } catch (second) {
        // A firmware that is not asked anything is silent too: the way into the bootloader tells whether it is there.
        if (first === undefined && isSilence(second)) return { lines: [], inBootloader: false }
        // Neither firmware nor bootloader: the first answer says more about the wiring.
        throw first ?? second
      }
      return { lines: await loader.identify(), inBootloader: true }
    },
    ...((operations.live ?? operations.page) && {
      live: async () => (await driver.run(operations.live ? 'live' : 'page')).lines,
    }),
    async probeBootloader() {
      if (!operations.attach) return { bootloader: null }
      try {
        await loader.attach()
        return { bootloader: true }
      } catch (error) {
        if (!isProblem(error) || !isSilence(error)) throw error
        const { found } = error.facts
        return {
          bootloader: false,
          ...(found && found !== heardText(new Uint8Array(0)) ? { text: found } : {}),
        }
      }
    },
    ...(operations.enter && {
      enter: async (command: string) => {
        await driver.run('enter', { slots: { command } })
      },
    }),
  }
}
