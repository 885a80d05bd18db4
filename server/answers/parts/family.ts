import type * as family from '@bench-wake/core/family'
import * as v from 'valibot'
import { held } from '../held'

export const ProfileFault = held<family.ProfileFault>()(
  'ProfileFault',
  v.object({ at: v.string(), says: v.string() }),
)
