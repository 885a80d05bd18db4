import { Problem, type Clock } from '@bench-wake/core/kernel'
import { tapChannel, type Channel, type TraceSpeech } from '@bench-wake/core/link'
import { TraceLog } from './trace-log'

/** What went over each port since it was opened last. */
export class PortTraces {
  private readonly logs = new Map<string, TraceLog>()

  /** The channel with its trace kept: a new one begins each time a port is opened. */
  traced(portId: string, channel: Channel, clock: Clock, speech: TraceSpeech): Channel {
    const log = new TraceLog({
      format: 'bench-wake/trace',
      formatVersion: 1,
      port: channel.port.name,
      startedAt: clock.now(),
      speech,
    })
    this.logs.set(portId, log)
    return tapChannel(channel, clock, log.tell)
  }

  /** @throws Problem `not-found` before the port was ever opened. */
  of(portId: string): TraceLog {
    const log = this.logs.get(portId)
    if (log) return log
    throw new Problem({
      kind: 'not-found',
      thing: portId,
      says: 'nothing has gone over this port yet',
      remedy: 'Read the unit, start a run, or listen to the port.',
    })
  }
}
