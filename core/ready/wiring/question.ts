import type { FamilyLink, Pin, Wiring } from '../../family'
import type { WorkshopRules } from '../../fit'
import type { Finding } from '../../kernel'
import type { Adapter, WiringSay } from './adapter'

/** All a rule of wiring may look at: the two ends, what is joined, and what was said of it. */
export interface Wired {
  link: FamilyLink
  wiring: Wiring
  adapter: Adapter
  say: WiringSay
  workshopRules: WorkshopRules
  /** What is joined, both pins known. */
  pairs: readonly { adapter: Pin; target: Pin }[]
}

export type Found = Omit<Finding, 'rule'>

/** One condition on the wiring; null where it has nothing to say. */
export interface WiringRule {
  id: string
  judge(wired: Wired): Found | null
}

/** Whether a pin carries a signal, and no supply or ground. */
export const isSignal = ({ role }: Pin): boolean => !['ground', 'supply', 'none'].includes(role)
/** Wires whose voltage is told against ground; a pair of wires tells it against each other, USB brings its own. */
export const isLogic = ({ role }: Pin): boolean =>
  ['transmit', 'receive', 'line', 'reset', 'clock', 'data', 'data-in', 'data-out', 'select'].includes(role)
/** "RX (pin 3)", or the name alone where the pin is called so. */
export const pinText = ({ id, name }: Pin): string => (id === name ? name : `${name} (pin ${id})`)
