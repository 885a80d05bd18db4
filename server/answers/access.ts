import type * as accessTypes from '../access/access'
import * as v from 'valibot'
import { held } from './held'

export const Session = held<accessTypes.Session>()(
  'Session',
  v.object({
    id: v.string(),
    person: v.string(),
    device: v.string(),
    at: v.number(),
    seenAt: v.number(),
    endsAt: v.number(),
  }),
)

/** How it stands with signing in on a device. */
export const AccessState = v.object({
  /** Whether one has to sign in at all. */
  needed: v.boolean(),
  session: v.nullable(Session),
  /** False where what is sent can be read in this network. */
  encrypted: v.boolean(),
  /** What another device in this network may call the program. */
  names: v.array(v.string()),
})
export type AccessState = v.InferOutput<typeof AccessState>
