import { verdictOf, type Finding } from '../kernel'
import type { Gate } from './gate'

export interface PortChoice {
  id: string
  name: string
  standIn: boolean
  /** Run that holds the port, if any. */
  heldBy?: string
  /** False when the system does not list it now. */
  present: boolean
}

/** PRACTICE C3, C5: a port is chosen, it is there, and no other run holds it. */
export function judgePort(port: PortChoice | null): Gate {
  const findings: Finding[] = [{ rule: 'port-chosen', ...judge(port) }]
  return { id: 'port', name: 'Port', verdict: verdictOf(findings), findings, numbers: {} }
}

function judge(port: PortChoice | null): Omit<Finding, 'rule'> {
  if (!port) {
    return {
      level: 'stop',
      says: 'No port is chosen.',
      because: 'The image goes through one port, and only one.',
      remedy: 'Choose the port that came when you plugged the adapter in.',
    }
  }
  if (!port.present) {
    return {
      level: 'stop',
      says: `${port.name} is not there.`,
      because: 'The system does not list it.',
      remedy: 'Plug the adapter in; if no new port comes, its driver is missing.',
    }
  }
  if (port.heldBy) {
    return {
      level: 'stop',
      says: `${port.name} is held by another run.`,
      because: `One program a port, one run a port: ${port.heldBy}.`,
      remedy: 'Wait for that run to end, or use another adapter.',
    }
  }
  return port.standIn
    ? {
        level: 'note',
        says: 'This port is a stand-in: nothing real is written.',
        because: `${port.name} behaves like the unit; its flash and its battery are simulated.`,
      }
    : {
        level: 'go',
        says: `${port.name} is there and free.`,
        because: 'The system lists it and no run holds it.',
      }
}
