/**
 * Why a name is none that a card's directory takes in its short form (ECMA-107, 11.2: eight characters and three); null where
 * it is one.
 */
export function shortNameFault(name: string): string | null {
  return /^[A-Z0-9_\-~!#$%&'()@^{}]{1,8}(\.[A-Z0-9_\-~!#$%&'()@^{}]{1,3})?$/.test(name)
    ? null
    : 'A short name is up to eight capitals or digits, a point, and up to three more'
}
