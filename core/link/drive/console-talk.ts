import type { Component, Link } from '../../family'
import type { Loader } from '../loader'
import { isProblem } from '../../kernel'
import { consoleLoader } from '../console/console-loader'
import { askConsole } from '../console/text-console'
import type { Port } from '../port'
import { isSilence, type Talk } from './talk'

/** A text console, and a bootloader with a console of its own. */
export function consoleTalk(port: Port, link: Link, component: Component): Talk {
  const { speeds } = link.loader
  let speed = link.settings.baudRate
  const join = async (baudRate: number) => {
    await port.close()
    await port.open({ ...link.settings, baudRate })
    speed = baudRate
  }
  const loaderOf = (of: Component): Loader => {
    const bare = consoleLoader(port, link, of)
    return {
      ...bare,
      async leave() {
        await bare.leave()
        // The firmware has one speed.
        if (speed !== link.settings.baudRate) await join(link.settings.baudRate)
      },
    }
  }
  const loader = loaderOf(component)
  return {
    loader,
    loaderOf,
    ...(speeds && {
      async slower() {
        const next = speeds.find((each) => each < speed)
        if (next === undefined) return null
        await join(next)
        return next
      },
    }),
    open: () => port.open(link.settings),
    close: () => port.close(),
    async page() {
      try {
        return {
          lines: (await askConsole(port, link.console, link.console.identify)).lines,
          inBootloader: false,
        }
      } catch (error) {
        if (!isProblem(error, 'no-answer') && !isProblem(error, 'unit-refused')) throw error
        try {
          await loader.attach()
        } catch (second) {
          // Neither firmware nor bootloader: the first answer says more about the wiring.
          throw isProblem(second, 'no-bootloader') ? error : second
        }
        return { lines: await loader.identify(), inBootloader: true }
      }
    },
    async hears() {
      try {
        await loader.attach()
        return { bootloader: true }
      } catch (error) {
        if (!isProblem(error) || !isSilence(error)) throw error
        const { found } = error.facts
        return { bootloader: false, ...(found && found !== 'silence' ? { text: found } : {}) }
      }
    },
    async enter(command) {
      await askConsole(port, link.console, { send: command, timeoutMs: link.console.identify.timeoutMs })
    },
  }
}
