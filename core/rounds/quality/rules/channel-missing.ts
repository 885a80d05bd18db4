import { channelNamed } from '../../log'
import type { LogRule } from '../question'

/** PRACTICE K3: the calibrator names the channels, and a log without one of them is logged again. */
export const channelMissing: LogRule = {
  id: 'channel-missing',
  judge({ log, channels }) {
    const missing = channels.filter(({ name }) => !channelNamed(log, name)).map(({ name }) => name)
    if (missing.length === 0) return null
    const spare = log.channels.map(({ name }) => name).slice(0, 12)
    return {
      level: 'stop',
      says: `${missing.join(', ')} ${missing.length === 1 ? 'is' : 'are'} missing from the log.`,
      because: `The channel list asks for ${channels.length}; the log has ${spare.join(', ') || 'none'}${log.channels.length > spare.length ? ' and more' : ''}.`,
      remedy:
        'Load the agreed channel list into the logger. Where a channel has another name there, say so on the case.',
      numbers: { missing: missing.length },
    }
  },
}
