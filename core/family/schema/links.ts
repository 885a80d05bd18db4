import * as v from 'valibot'
import { Drive, driveForms } from './drives'
import { amount, flows, parities, slug, text, whole } from './fields'
import { Wiring } from './wiring'

/** How a serial line is set. */
export const LineSettings = v.strictObject({
  baudRate: whole('Baud', 50),
  dataBits: v.picklist([5, 6, 7, 8]),
  parity: v.picklist(parities),
  stopBits: v.picklist([1, 2]),
  flow: v.exactOptional(v.pipe(v.picklist(flows), v.description('Who holds back whom; nobody when absent'))),
  lines: v.exactOptional(
    v.pipe(
      v.strictObject({ dtr: v.exactOptional(v.boolean()), rts: v.exactOptional(v.boolean()) }),
      v.description(
        'How the control lines stand once the port is open, where a board is reset by one. Most systems raise both for a moment when a port is opened',
      ),
    ),
  ),
})

/** Clock behind a serial line, of a unit or of an adapter. */
export const LineClock = v.pipe(
  v.strictObject({
    hertz: v.pipe(
      v.number(),
      v.minValue(1000),
      v.maxValue(1e9),
      v.description('Clock that the speed is divided from, Hz'),
    ),
    oversampling: v.exactOptional(
      v.pipe(v.picklist([4, 8, 16, 32]), v.description('Looks at each bit; 16 where it is not said')),
    ),
    ppm: v.exactOptional(
      v.pipe(
        v.number(),
        v.minValue(0),
        v.maxValue(100_000),
        v.description('Tolerance of the clock, millionths'),
      ),
    ),
  }),
  v.description('Clock of the serial line, where the manual tells it: the speed is judged by it'),
)

const LinkRevisions = v.pipe(
  v.array(whole('Hardware major')),
  v.minLength(1),
  v.description('Hardware revisions that have this link; all of them where nothing is said'),
)

/**
 * One way to the unit, described so that fit, kit and packages know it; `protocol` says who speaks on it, `drive` how this
 * program does.
 */
export const FamilyLink = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.picklist(['serial', 'rs485', 'usb', 'can', 'kline', 'debug', 'chip', 'six-line', 'media']),
  revisions: v.exactOptional(LinkRevisions),
  wiring: v.exactOptional(Wiring),
  // A unit that searches a medium, and transfers that a person starts with a tool of their own, are described only.
  protocol: v.picklist([
    ...Object.values(driveForms).map(({ protocol }) => protocol),
    'files',
    'xmodem',
    'ymodem',
  ]),
  settings: v.exactOptional(text('Speed, levels and the like, to a person')),
  line: v.exactOptional(v.pipe(LineSettings, v.description('How the line is set, where it is a serial one'))),
  clock: v.exactOptional(LineClock),
  bytesPerSecond: amount('Usual net rate of a write, bytes a second'),
  drive: v.exactOptional(v.pipe(Drive, v.description('How this program drives it itself'))),
  usb: v.exactOptional(
    v.strictObject({
      vendorId: whole('Vendor of the bootloader, as a DFU suffix names it'),
      productId: whole('Product of the bootloader'),
    }),
  ),
  medium: v.exactOptional(
    v.pipe(
      v.strictObject({
        name: text('"memory card", "USB stick"'),
        maxBytes: whole('The unit reads no larger one', 1),
        files: v.pipe(
          v.array(
            v.strictObject({
              name: text('Name the unit looks for, where the name matters'),
              component: v.exactOptional(slug('The component whose image it is')),
              text: v.exactOptional(
                v.pipe(v.string(), v.maxLength(4000), v.description('Else: what the file says, in ASCII')),
              ),
            }),
          ),
          v.minLength(1),
          v.description('In the order in which they must be put on it'),
        ),
        othersAllowed: v.boolean(),
        shortNames: v.exactOptional(
          v.pipe(
            v.literal(true),
            v.description('The unit reads short names alone: eight capitals, a point, three'),
          ),
        ),
        update: v.exactOptional(
          v.pipe(
            v.strictObject({
              insert: text('How the medium goes in, and what is switched'),
              caution: v.exactOptional(text('What can hurt somebody, or the unit')),
              searches: text('What the unit shows when it has found its files'),
              minutes: amount('Usual time until it is through, minutes'),
              prompts: v.pipe(
                v.array(
                  v.strictObject({
                    shows: text('What the unit asks'),
                    answer: text('The usual answer'),
                    caution: v.exactOptional(text('What to look out for')),
                  }),
                ),
                v.maxLength(60),
              ),
            }),
            v.description('How the unit takes its files itself, for a run that leads through it'),
          ),
        ),
      }),
      v.description('The package of files that the unit searches for'),
    ),
  ),
})

export type FamilyLink = v.InferOutput<typeof FamilyLink>
/** A link that the program drives itself: it is spoken on, not only described. */
export type DrivenLink = FamilyLink & { drive: Drive }
