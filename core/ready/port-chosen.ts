import { verdictOf, type Finding } from '../kernel'
import type { Gate } from './gate'

/** A port as one chooses it. */
export interface PortChoice {
  id: string
  name: string
  standIn: boolean
  /** Run that holds the port, if any. */
  heldBy?: string
  /** Another program that holds it, where the system tells: name and process. */
  program?: string
  /** Set where the job's link goes over the other kind: a serial line for a USB device, or the other way round. */
  otherChannel?: 'serial' | 'usb'
  /** False when the system does not list it now. */
  present: boolean
}

/** PRACTICE C3, C5: a port is chosen, it is there, and no other run holds it. */
export function judgePort(port: PortChoice | null): Gate {
  const findings: Finding[] = [{ rule: 'port-chosen', ...judge(port) }]
  return { id: 'port', name: 'Port', verdict: verdictOf(findings), findings, numbers: {} }
}

/** PRACTICE C4: old tools only see ports up to this number. */
export const highestForOldTools = 4

/** The number of a port whose system counts them, "COM7"; null elsewhere. */
export function portNumber(name: string): number | null {
  const digits = /^COM(\d+)$/i.exec(name)?.[1]
  return digits === undefined ? null : Number(digits)
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
  if (port.otherChannel) {
    const serial = port.otherChannel === 'serial'
    return {
      level: 'stop',
      says: `${port.name} is the wrong kind of port.`,
      because: serial
        ? 'It is a serial line; this link goes over a USB device.'
        : 'It is a USB device; this link goes over a serial line.',
      remedy: 'Choose the port that came when you plugged the unit or its adapter in.',
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
  if (port.program) {
    return {
      level: 'stop',
      says: `${port.name} is held by another program: ${port.program}.`,
      because: 'One program a port; a monitor that read the version has to be closed first.',
      remedy: 'Disconnect in that program and close it, also in the background.',
    }
  }
  const number = portNumber(port.name)
  if (number !== null && number > highestForOldTools) {
    return {
      level: 'note',
      says: `${port.name} has a high number.`,
      because: `Old tools see ports up to ${highestForOldTools} only; this program does not mind.`,
      remedy: `Where an old tool still has to be used, give the port a number up to ${highestForOldTools}, and name the same in both programs.`,
      numbers: { portNumber: number },
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
