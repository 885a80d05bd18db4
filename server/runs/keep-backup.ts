import { componentOf, type Family } from '@bench-wake/core/family'
import { writeIntelHex } from '@bench-wake/core/image'
import { asciiBytes, type Finding } from '@bench-wake/core/kernel'
import type { Backup } from '@bench-wake/core/run'
import type { Shelf } from '../store/shelf'

/** PRACTICE G1: on the shelf by its digest, under its name; one that equals another unit's is told. */
export async function keepBackup(
  shelf: Shelf,
  unit: { id: string; name: string },
  family: Family,
  { name, address, bytes }: Backup,
): Promise<{ imageId: string; findings: Finding[] }> {
  const erased = componentOf(family).memory.erasedByte
  let end = bytes.length
  while (end > 1 && bytes[end - 1] === erased) end--
  const text = writeIntelHex([{ address, bytes: bytes.subarray(0, end) }])
  const origin = `read out of ${unit.name}`
  const { images } = await shelf.add(`${name}.hex`, asciiBytes(text), { origin })
  const { id, origins } = images[0]!
  const others = origins.flatMap(({ from }) =>
    from?.startsWith('read out of ') && from !== origin ? [from] : [],
  )
  const findings: Finding[] =
    family.backup?.firmware === 'own' && others.length > 0
      ? [
          {
            rule: 'backup-own',
            level: 'note',
            says: 'The original equals that of another unit.',
            because: `${others[0]!.replace('read out of ', '')} gave the same bytes; each is said to have its own.`,
            remedy: 'Look whether the right unit is on the cable.',
          },
        ]
      : []
  return { imageId: id, findings }
}
