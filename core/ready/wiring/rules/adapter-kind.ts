import { adapterKindOf } from '../adapter'
import type { WiringRule } from '../question'

/** An adapter speaks one kind of link. */
export const adapterKind: WiringRule = {
  id: 'adapter-kind',
  judge({ link, adapter }) {
    const wanted = adapterKindOf(link)
    return adapter.kind === wanted
      ? {
          level: 'go',
          says: `${adapter.name} speaks this link.`,
          because: `${link.name}: ${wanted}.`,
        }
      : {
          level: 'stop',
          says: `${adapter.name} is a ${adapter.kind} adapter; this link wants ${wanted}.`,
          because: `${link.name}.`,
          remedy: `Choose a ${wanted} adapter.`,
        }
  },
}
