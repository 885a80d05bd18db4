import type { Family, Link } from '../family'
import { isProblem } from '../kernel'
import { askConsole, xmodemLoader, type Port } from '../link'
import { readSnapshot, type Snapshot } from '../unit'

/**
 * Reads what a unit says of itself over its link: from its firmware's console, or, when that does not answer,
 * from its bootloader.
 * @param port open, with the link's settings.
 * @throws Problem `no-answer` when neither answers.
 */
export async function readUnit(
  port: Port,
  link: Link,
  family: Family,
  now: () => number,
): Promise<{ snapshot: Snapshot; inBootloader: boolean }> {
  try {
    const { lines } = await askConsole(port, link.console, link.console.identify)
    return { snapshot: readSnapshot(family, lines, now(), 'link'), inBootloader: false }
  } catch (error) {
    if (!isProblem(error, 'no-answer') && !isProblem(error, 'unit-refused')) throw error
    const loader = xmodemLoader(port, link)
    try {
      await loader.attach()
    } catch (second) {
      // Neither firmware nor bootloader: the first answer says more about the wiring.
      throw isProblem(second, 'no-bootloader') ? error : second
    }
    return { snapshot: readSnapshot(family, await loader.identify(), now(), 'link'), inBootloader: true }
  }
}
