// A thread does not take over its parent's loader, so it registers TypeScript for itself.
import { register } from 'tsx/esm/api'

register()
await import('./thread.ts')
