import { writes, type RunState, type StepKind } from '@bench-wake/core/run'

const commands: Record<StepKind, string> = {
  'power-up': 'Power as ordered.',
  swap: 'Changing the chip.',
  media: 'The unit takes its files. Leave card, key and supply alone.',
  connect: 'Opening the port.',
  identify: 'Reading the unit.',
  settings: 'Keeping the settings.',
  enter: 'Going into the bootloader. Watch the lamp.',
  backup: 'Reading out what is in it. Nothing is written yet.',
  compare: 'Holding the image against what is in the unit.',
  'dry-run': 'A dry run: all of it goes over the link, nothing is written.',
  erase: 'Erasing. Leave plug, lid and key alone.',
  write: 'Writing. Leave plug, lid and key alone.',
  verify: 'Comparing. Leave it alone.',
  fuses: 'Setting the fuses. Leave plug, lid and wires alone.',
  restart: 'Starting the new firmware.',
  prove: 'Reading the version from the unit.',
  look: 'Looking at what the unit shows.',
  faults: 'Reading and clearing the fault codes.',
}
/** Words of a run that writes nothing. */
const looking: Partial<Record<StepKind, string>> = {
  backup: 'Reading out what is in it.',
  compare: 'Comparing the image with the unit. Leave it alone.',
  restart: 'Starting its firmware again.',
  prove: 'Reading the unit again.',
  faults: 'Reading the fault codes.',
}
/** The one thing that a step asks of whoever stands there. */
export const commandOf = (kind: StepKind, facts: RunState['facts']): string =>
  (writes(facts) ? undefined : looking[kind]) ?? commands[kind]
