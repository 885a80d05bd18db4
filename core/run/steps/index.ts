import type { StepAct } from '../bench'
import type { StepKind } from '../step'
import { connect } from './connect'
import { enter } from './enter'
import { erase } from './erase'
import { identify } from './identify'
import { powerUp } from './power-up'
import { prove } from './prove'
import { restart } from './restart'
import { verify } from './verify'
import { write } from './write'

export const stepActs: Record<StepKind, StepAct> = {
  'power-up': powerUp,
  connect,
  identify,
  enter,
  erase,
  write,
  verify,
  restart,
  prove,
}
