import * as v from 'valibot'
import { amount, slug, text, whole } from './fields'
import { OrderItem } from './power'

const Stage = v.strictObject({
  see: v.pipe(v.array(text('A sign')), v.description('What you should see')),
  ifNot: v.exactOptional(
    v.array(v.strictObject({ sign: text('What you see instead'), do: text('What to do') })),
  ),
  normal: v.exactOptional(
    v.pipe(v.array(text('A sign')), v.description('What looks alarming and is normal')),
  ),
  caution: v.exactOptional(text('Danger at this very step, and who may do it')),
})

/** How long each stage of a run usually takes. */
export const Stages = v.pipe(
  v.strictObject({
    enter: Stage,
    erase: Stage,
    write: Stage,
    verify: Stage,
    restart: Stage,
    prove: Stage,
  }),
  v.description('Signs at each stage, told before they come'),
)
export type StageName = keyof v.InferOutput<typeof Stages>

/** How the firmware starts. */
export const Restart = v.strictObject({
  readyMs: amount('Usual time until the new firmware answers, ms'),
  powerCycle: v.pipe(text('What to do to the supply, in order'), v.description('Asked before the proof')),
})

/** How often a step is tried again. */
export const Retries = v.pipe(
  v.strictObject({
    asIs: whole('How often a failed write is repeated as it is'),
    reEnter: whole('How often it is then tried with a new entry'),
    otherAdapter: v.pipe(v.boolean(), v.description('Then ask for another adapter, or a lower speed')),
  }),
  v.description('What is tried when erase, write or check fails, before the leg ends'),
)
/** How often a step is tried again. */
export type RetryPolicy = v.InferOutput<typeof Retries>

/** Whether each unit holds its own, and what is kept before a write. */
export const Backup = v.pipe(
  v.strictObject({
    firmware: v.pipe(
      v.picklist(['own', 'universal']),
      v.description('`own`: every unit holds an image of its own. `universal`: the same can be had again'),
    ),
    settings: v.exactOptional(
      v.pipe(
        v.strictObject({
          says: text('What is lost, and how it is kept: "Photograph the channel list, page by page."'),
          back: text('How it is put back after verification'),
          fields: v.exactOptional(
            v.pipe(
              v.array(
                v.strictObject({
                  id: slug('Short name'),
                  name: text('As the unit calls it: "Host name"'),
                  min: v.exactOptional(whole('Characters at least', 0)),
                  max: v.exactOptional(whole('Characters at most', 1)),
                  characters: v.exactOptional(
                    v.pipe(
                      v.picklist(['digits', 'letters-and-digits', 'any']),
                      v.description('Which characters the unit takes'),
                    ),
                  ),
                }),
              ),
              v.minLength(1),
              v.description('Settings that are short enough to be typed, each with what the unit takes'),
            ),
          ),
        }),
        v.description('Settings that an update erases and the link cannot read'),
      ),
    ),
  }),
  v.description('What is worth reading out before the first write'),
)

/** What a loader asks in between. */
export const Asks = v.pipe(
  v.array(
    v.strictObject({
      asks: text('What the unit or its loader asks: "Erase all tables? Y/N"'),
      usually: text('What is usually answered, and where: "Yes, at its own panel"'),
      when: v.exactOptional(text('When it comes: "after each part of the write"')),
    }),
  ),
  v.minLength(1),
  v.description('What is asked in the middle of an update; whoever stays there answers it'),
)

/** Steps of a chip that is changed in its socket. */
export const ChipReplacement = v.pipe(
  v.array(
    v.strictObject({
      ...OrderItem.entries,
      blank: v.exactOptional(
        v.pipe(
          v.boolean(),
          v.description(
            'True for a step of a blank chip alone; one that came ready programmed does without it',
          ),
        ),
      ),
    }),
  ),
  v.minLength(1),
  v.description('Where the image goes in with a chip in a socket: each step by hand, in order'),
)
