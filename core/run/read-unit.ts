import type { Family } from '../family'
import type { LinkDriver } from '../link'
import { readSnapshot, type Snapshot } from '../unit'

/**
 * Reads what a unit says of itself over its link: from its firmware, or, when that does not answer, from its bootloader.
 * @param talk open.
 * @throws Problem for which `isSilence` holds when neither answers.
 */
export async function readUnit(
  driver: LinkDriver,
  family: Family,
  now: () => number,
): Promise<{ snapshot: Snapshot; inBootloader: boolean }> {
  const { lines, inBootloader } = await driver.page()
  const snapshot = readSnapshot(family, lines, now(), 'link')
  return { snapshot: inBootloader ? { ...snapshot, inBootloader } : snapshot, inBootloader }
}
