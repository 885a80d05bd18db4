import { pageLine, type Component, type DriveOf, type Family, type OtherLink } from '../../family'
import { isProblem, type Clock } from '../../kernel'
import type { Port } from '../port'
import { heardText, scriptDriver, scriptLoader, type ScriptEvent } from '../script'
import { isSilence, type Talk } from './talk'

/** A unit on a serial line whose link is data: its operations say what is sent and awaited. */
export function scriptTalk(
  port: Port,
  clock: Clock,
  family: Family,
  link: OtherLink,
  script: DriveOf<'script'>,
  component: Component,
  trace?: (event: ScriptEvent) => void,
): Talk {
  const show = (field: string, value: string) => {
    const lines = pageLine(family, field, value)
    return lines.length > 0 ? lines : [`${field}: ${value}`]
  }
  const driverOf = (of: Component) => scriptDriver(port, clock, script, of, link.line!, show, trace)
  const driver = driverOf(component)
  const loader = scriptLoader(driver, port.name)
  const { operations } = script
  return {
    loader,
    loaderOf: (of) => scriptLoader(driverOf(of), port.name),
    async open() {
      await port.open(link.line!)
      if (script.opens) await port.setLines(script.opens)
    },
    close: () => port.close(),
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
        // Neither firmware nor bootloader: the first answer says more about the wiring.
        throw first ?? second
      }
      return { lines: await loader.identify(), inBootloader: true }
    },
    async hears() {
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
