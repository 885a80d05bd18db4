import type { FamilyDocument } from './schema'

/**
 * A profile to begin another from. What is known of the units of the one it is copied from (faults by serial or batch, what they
 * were sold with) is left out: said of other equipment it would be a warning, or an all-clear, that nobody gave.
 * @returns the copy, and what was left out, for the person to read.
 */
export function copyFamily(document: FamilyDocument): { document: FamilyDocument; leftOut: string[] } {
  const { advisories, factory, ...rest } = document
  return {
    document: { ...rest, id: `${document.id}-copy`, name: `${document.name}, copy`, revision: 1 },
    leftOut: [
      ...(advisories?.length
        ? [count(advisories.length, 'known fault or feature', 'known faults and features')]
        : []),
      ...(factory?.length
        ? [
            count(
              factory.length,
              'mark of units brought up before they were sold',
              'marks of units brought up before they were sold',
            ),
          ]
        : []),
    ],
  }
}

const count = (number: number, one: string, several: string) => `${number} ${number === 1 ? one : several}`
