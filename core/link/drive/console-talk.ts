import type { Component, Link } from '../../family'
import { isProblem } from '../../kernel'
import { consoleLoader } from '../console/console-loader'
import { askConsole } from '../console/text-console'
import type { Port } from '../port'
import { isSilence, type Talk } from './talk'

/** A text console, and a bootloader with a console of its own. */
export function consoleTalk(port: Port, link: Link, component: Component): Talk {
  const loader = consoleLoader(port, link, component)
  return {
    loader,
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
        return true
      } catch (error) {
        if (isSilence(error)) return false
        throw error
      }
    },
    async enter(command) {
      await askConsole(port, link.console, { send: command, timeoutMs: link.console.identify.timeoutMs })
    },
  }
}
