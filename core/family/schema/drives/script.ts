import { LinkScript } from '../script'
import type { DriveForm } from './drive-form'

/** Steps of the profile, over a serial line. */
export const script = {
  schema: LinkScript,
  protocol: 'script',
  kinds: ['serial', 'rs485'],
  line: true,
} satisfies DriveForm<typeof LinkScript>
