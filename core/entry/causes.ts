/** Why a unit does not answer. */
export const causeIds = [
  'swapped-pair',
  'bad-contact',
  'missed-window',
  'wrong-definition',
  'port-held',
  'wrong-speed',
  'no-driver',
  'no-power',
  'second-unit',
  'wrong-cable',
] as const
export type CauseId = (typeof causeIds)[number]

/** A cause of not getting in. */
export interface Cause {
  says: string
  /** What to do about it. */
  do: string
  /** How often it is this one, among all, before anything is known of family and bench (common practice). */
  usual: number
}

/**
 * PRACTICE F2: a time-out while waiting means swapped pair, bad contact, or not in the bootloader. The shares are
 * common practice, rounded; what is known of family, bench and try moves them at once.
 */
export const causes: Readonly<Record<CauseId, Cause>> = {
  'missed-window': {
    says: 'The unit is not in its bootloader: the window was missed.',
    do: 'Begin again from power off, one act at a time. It often takes several tries.',
    usual: 0.26,
  },
  'bad-contact': {
    says: 'A wire or a plug makes bad contact.',
    do: 'Push every plug fully home; solder a header where wires are held in holes.',
    usual: 0.18,
  },
  'swapped-pair': {
    says: 'Transmit and receive are swapped.',
    do: 'Swap the two wires. It harms nothing.',
    usual: 0.16,
  },
  'port-held': {
    says: 'Another program holds the port.',
    do: 'Disconnect in that program and close it, also in the background.',
    usual: 0.08,
  },
  'wrong-cable': {
    says: 'It is the wrong cable: it looks alike and is not.',
    do: 'Look at the label and the pinout; take the one the drawing asks for.',
    usual: 0.07,
  },
  'no-driver': {
    says: 'The converter’s driver is missing: the port never came.',
    do: 'Install the driver for that converter chip, or take another adapter.',
    usual: 0.06,
  },
  'no-power': {
    says: 'The unit has no power.',
    do: 'Measure at its terminals; look at switch, fuse and cells.',
    usual: 0.06,
  },
  'wrong-speed': {
    says: 'The speed or the parity is not the unit’s.',
    do: 'Set the link as its manual says.',
    usual: 0.05,
  },
  'second-unit': {
    says: 'A second unit on the bus talks into it.',
    do: 'Unplug everything else. Write nothing before one unit is alone.',
    usual: 0.04,
  },
  'wrong-definition': {
    says: 'Image, layout and unit do not agree: it is the wrong definition.',
    do: 'Read the layout from the unit’s page and take the image for it. Do not write.',
    usual: 0.04,
  },
}
