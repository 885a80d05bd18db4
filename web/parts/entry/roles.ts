import type { ActRole } from '@bench-wake/core/family'

/** Who does an act, to a person. */
export const roleNames: Record<ActRole, string> = {
  left: 'Left hand',
  right: 'Right hand',
  foot: 'Foot',
  helper: 'Helper',
  program: 'Program',
}
