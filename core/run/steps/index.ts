import type { StepAct } from '../step-context'
import type { StepKind } from '../step'
import { backup } from './backup'
import { compare } from './compare'
import { connect } from './connect'
import { dryRun } from './dry-run'
import { enter } from './enter'
import { erase } from './erase'
import { faults } from './faults'
import { fuses } from './fuses'
import { identify } from './identify'
import { look } from './look'
import { media } from './media'
import { powerUp } from './power-up'
import { prove } from './prove'
import { restart } from './restart'
import { settings } from './settings'
import { swap } from './swap'
import { verify } from './verify'
import { write } from './write'

/** What is done in each kind of step. */
export const stepActs: Record<StepKind, StepAct> = {
  'power-up': powerUp,
  swap,
  media,
  connect,
  identify,
  settings,
  enter,
  backup,
  compare,
  'dry-run': dryRun,
  erase,
  write,
  verify,
  fuses,
  restart,
  prove,
  look,
  faults,
}
