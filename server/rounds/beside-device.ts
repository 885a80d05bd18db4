import { inSentence, isProblem, Problem, type Clock } from '@bench-wake/core/kernel'
import { shownLines } from '@bench-wake/core/link'
import type { CaseAgreement, ShownLines } from '@bench-wake/core/rounds'
import type { PortRoom } from '../ports/port-room'
import { wrongChannel } from '../ports/wrong-channel'
import type { RecordingForm } from './recordings'

/** A second device that is joined for as long as a log is recorded. */
export interface JoinedBeside {
  ask(): Promise<ShownLines>
  close(): Promise<void>
}

/**
 * Joins the second device of a case and hears it once: whoever records wants to know that it is there.
 * @returns undefined where no channel is of one. @throws Problem `no-beside` that says what is wrong with it, `port-held`.
 */
export async function joinBeside(
  { holds, ports }: PortRoom,
  { portId, besidePortId, speed }: RecordingForm,
  { channels, beside: device }: CaseAgreement,
  clock: Clock,
): Promise<JoinedBeside | undefined> {
  const its = channels.flatMap(({ read }) => (read && 'beside' in read ? [read.beside] : []))
  if (its.length === 0 || !device) return undefined
  if (besidePortId === undefined || besidePortId === portId)
    throw noBeside(device.name, 'its port is not chosen', 'Choose the port that it stands at.')
  const entry = await ports.find(besidePortId, holds.by)
  if (ports.standIn(portId) && entry.kind !== 'stand-in' && speed !== 1)
    throw noBeside(device.name, 'it is a real one, and its time cannot be hurried', 'Record in real time.')
  holds.refuseHeld(besidePortId)
  holds.hold(besidePortId, recordingHolds)
  let close = async () => {}
  try {
    await holds.quiet(besidePortId)
    const { channel } = ports.connect(besidePortId, clock)
    if (channel.kind !== 'serial') throw wrongChannel(besidePortId)
    const { port } = channel
    await port.open(device.line)
    close = () => port.close().catch(() => {})
    const ask = () => shownLines(device.script, device.line, port, clock)
    const shown = await ask()
    const missing = its.filter((line) => !shown.has(line))
    if (missing.length > 0)
      throw noBeside(
        device.name,
        `it shows no ${missing.join(', ')}`,
        `Take one of these in the channel list: ${[...shown.keys()].join(', ') || 'none'}.`,
      )
    return {
      ask,
      async close() {
        await close()
        holds.free(besidePortId)
      },
    }
  } catch (error) {
    await close()
    holds.free(besidePortId)
    if (!isProblem(error) || error.facts.kind === 'no-beside') throw error
    throw noBeside(device.name, inSentence(error.facts.says), error.facts.remedy)
  }
}

/** What holds a port that is recorded from. */
export const recordingHolds = 'a log being recorded'

const noBeside = (thing: string, says: string, remedy: string): Problem =>
  new Problem({ kind: 'no-beside', thing, says, remedy })
