import * as v from 'valibot'
import { Drive } from './drive'
import { amount, flows, parities, slug, text, whole } from './fields'
import { Wiring } from './wiring'

const Exchange = v.strictObject({
  send: text('Command, with {slots} for values'),
  reads: v.exactOptional(text('Line that carries the answer, with {slots}')),
  progress: v.exactOptional(text('Line that tells progress, with {done} and {total}')),
  timeoutMs: amount('Longest silence before the command counts as unanswered, ms'),
})

const LineSettings = v.strictObject({
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

/** A serial line with a console, and a bootloader with another. */
const SerialLinkSchema = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.literal('serial'),
  revisions: v.exactOptional(LinkRevisions),
  wiring: v.exactOptional(Wiring),
  settings: LineSettings,
  clock: v.exactOptional(LineClock),
  console: v.pipe(
    v.strictObject({
      lineEnd: v.picklist(['\r', '\n', '\r\n']),
      done: text('Line that ends a good answer'),
      refused: text('Line that ends a refusal, with {reason}'),
      identify: Exchange,
    }),
    v.description('The running firmware’s own text console'),
  ),
  loader: v.pipe(
    v.strictObject({
      protocol: v.picklist(['xmodem', 'ymodem']),
      blockBytes: v.picklist([128, 1024]),
      resumes: v.exactOptional(
        v.pipe(v.boolean(), v.description('True when a transfer may begin in the middle, at any block')),
      ),
      padByte: whole('Fills the last block; the erased byte, so that nothing is programmed there'),
      ready: text('Line the bootloader shows when it is there'),
      identify: Exchange,
      erase: Exchange,
      write: Exchange,
      rehearsal: v.exactOptional(
        v.pipe(Exchange, v.description('Takes the image as the write does and throws it away: a dry run')),
      ),
      speeds: v.exactOptional(
        v.pipe(
          v.array(whole('Baud', 50)),
          v.minLength(1),
          v.description(
            'Lower speeds that the bootloader takes up by itself from what it hears, highest first',
          ),
        ),
      ),
      checksum: Exchange,
      leave: Exchange,
    }),
    v.description('The bootloader’s commands around the block transfer'),
  ),
})

/** A link described so that fit, kit and packages know it; `protocol` says who speaks on it. */
const OtherLinkSchema = v.strictObject({
  id: slug('Short name of the link'),
  name: text('Which jack and cable, to a person'),
  kind: v.picklist(['rs485', 'usb', 'can', 'kline', 'debug', 'chip', 'media', 'wire']),
  revisions: v.exactOptional(LinkRevisions),
  wiring: v.exactOptional(Wiring),
  protocol: v.picklist([
    'modbus-rtu',
    'dfu',
    'uds',
    'kwp',
    'swd',
    'spi-flash',
    'files',
    'xmodem',
    'ymodem',
    'script',
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
        mostBytes: whole('The unit reads no larger one', 1),
        files: v.pipe(
          v.array(
            v.strictObject({
              name: text('Name the unit looks for, where the name matters'),
              component: slug('The component whose image it is'),
            }),
          ),
          v.minLength(1),
          v.description('In the order in which they must be put on it'),
        ),
        othersAllowed: v.boolean(),
      }),
      v.description('The package of files that the unit searches for'),
    ),
  ),
})

export const FamilyLink = v.variant('kind', [SerialLinkSchema, OtherLinkSchema])
export type FamilyLink = v.InferOutput<typeof FamilyLink>
/** A serial line, the link that this version drives. */
export type Link = Extract<FamilyLink, { kind: 'serial' }>
export type OtherLink = Exclude<FamilyLink, { kind: 'serial' }>
/** A link that the program drives itself: it is spoken on, not only described. */
export type DrivenLink = Link | (OtherLink & { drive: Drive })
export type Exchange = Link['loader']['identify']
