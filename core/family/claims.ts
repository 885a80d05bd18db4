import type { Component, Family } from './schema'
import { literalStart } from './template'

/** Two profiles that claim the same images: nobody can tell from the bytes which of them an image is of. */
export interface SharedClaim {
  component: string
  /** The other profile, and its component. */
  family: { id: string; name: string }
  otherComponent: string
}

type Claiming = Pick<Family, 'id' | 'name' | 'hardware'> & { components: readonly Component[] }

/**
 * Which other profiles claim images of this one: the same mark at the same place, and no device identifier in the block
 * that tells the two apart. A profile that was copied and not changed does that.
 */
export function sharedClaims(family: Claiming, others: readonly Claiming[]): SharedClaim[] {
  return others
    .filter(({ id }) => id !== family.id)
    .flatMap((other) =>
      family.components.flatMap((own) =>
        other.components.flatMap((theirs): SharedClaim[] =>
          sameMark(own, theirs) && !toldApart(family, own, other, theirs)
            ? [
                {
                  component: own.id,
                  family: { id: other.id, name: other.name },
                  otherComponent: theirs.id,
                },
              ]
            : [],
        ),
      ),
    )
}

function sameMark(own: Component, theirs: Component): boolean {
  const [a, b] = [own.identity, theirs.identity]
  const sameBlock =
    a && b && a.address === b.address && (a.magic.startsWith(b.magic) || b.magic.startsWith(a.magic))
  const sameText = own.versionText?.some((text) =>
    theirs.versionText?.some((other) => literalStart(text) === literalStart(other)),
  )
  return sameBlock === true || sameText === true
}

function toldApart(family: Claiming, own: Component, other: Claiming, theirs: Component): boolean {
  const says = ({ identity }: Component) =>
    identity?.fields.some(({ field }) => field === 'deviceIdentifier') ?? false
  return family.hardware.deviceIdentifier !== other.hardware.deviceIdentifier && says(own) && says(theirs)
}
