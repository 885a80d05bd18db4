const standInPrefix = 'stand-in:'

/** The name of the port that a unit's stand-in answers at. */
export const standInPort = (unitId: string): string => standInPrefix + unitId

/** The unit whose stand-in answers at a port; null for a port of hardware. */
export const standInOf = (portId: string): string | null =>
  portId.startsWith(standInPrefix) ? portId.slice(standInPrefix.length) : null
