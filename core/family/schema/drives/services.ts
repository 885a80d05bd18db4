import * as v from 'valibot'
import type { Fault } from '../../fault'
import { amount, hexadecimal, text, whole } from '../fields'
import { KeyStep } from '../key-steps'
import type { DriveForm } from './drive-form'
import { pageOf, shownAs } from './page'

const serviceBytes = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^([0-9A-Fa-f]{2} ?)*$/, 'Write bytes as pairs of hexadecimal digits: "01 00"'),
    v.maxLength(600),
    v.description(says),
  )
/** A routine that has to say well before or after the transfer. */
const ServiceRoutine = v.strictObject({
  routine: hexadecimal('Routine (service 31, start)'),
  option: v.exactOptional(serviceBytes('What goes with it')),
  answer: v.exactOptional(
    v.pipe(
      v.string(),
      v.regex(/^(([0-9A-Fa-f]{2}|\.\.) ?)+$/, 'Write the bytes of its answer, ".." for any: "00 .."'),
      v.description('What its answer begins with where all is well; any answer where nothing is said'),
    ),
  ),
  says: text('What it asks of the unit, and what to do where it does not say well'),
})
const oneByte = (says: string) =>
  v.pipe(
    v.string(),
    v.regex(/^0x[0-9A-Fa-f]{1,2}$/, 'Write one byte in hexadecimal: "0x9A"'),
    v.transform(Number),
    v.description(says),
  )

const period = v.pipe(
  v.number(),
  v.minValue(1),
  v.maxValue(60_000),
  v.description('Time between two messages at this rate, ms'),
)
const byte = v.pipe(v.number(), v.integer(), v.minValue(0), v.maxValue(255))
const width = (says: string) => v.exactOptional(v.pipe(v.picklist([1, 2, 3, 4]), v.description(says)))

const page = pageOf({
  identifier: v.exactOptional(hexadecimal('Data identifier (service 22)')),
  local: v.exactOptional(oneByte('Data identifier of one byte (service 21), of the older services')),
  identification: v.exactOptional(
    oneByte('What it says of its identity (service 1A), of the older services'),
  ),
  faults: v.exactOptional(v.pipe(v.literal(true), v.description('The fault codes (service 19)'))),
  as: shownAs,
})
/** How a controller is brought to take a program. */
const Services = {
  securityLevel: v.exactOptional(
    whole('Level of security access (service 27); absent where the unit asks for none', 1),
  ),
  sessions: v.exactOptional(
    v.pipe(
      v.array(v.pipe(v.number(), v.integer(), v.minValue(1), v.maxValue(255))),
      v.minLength(1),
      v.description(
        'Sessions in their order (service 10), the last is the one that is written in; 3, then 2',
      ),
    ),
  ),
  widths: v.exactOptional(
    v.pipe(
      v.strictObject({ address: width('Bytes of an address'), length: width('Bytes of a length') }),
      v.description('Widths of address and length; four bytes where nothing is said'),
    ),
  ),
  dataFormat: v.exactOptional(
    v.pipe(
      v.number(),
      v.integer(),
      v.minValue(0),
      v.maxValue(255),
      v.description(
        'Data format of the download (ISO 14229-1, 34): high digit packed, low digit enciphered, as the image comes; 0 for neither',
      ),
    ),
  ),
  fingerprint: v.exactOptional(
    v.pipe(
      v.strictObject({
        identifier: hexadecimal('Data identifier (service 2E)'),
        bytes: serviceBytes('What is written into it'),
      }),
      v.description('Who writes it, written before anything is erased'),
    ),
  ),
  before: v.exactOptional(
    v.pipe(v.array(ServiceRoutine), v.description('Preconditions, asked before the programming session')),
  ),
  after: v.exactOptional(
    v.pipe(v.array(ServiceRoutine), v.description('Dependencies, checked after the transfer')),
  ),
  key: v.exactOptional(
    v.pipe(
      v.array(KeyStep),
      v.minLength(1),
      v.description(
        'How a seed is answered; absent where the unit asks for no key, or nobody has its manual',
      ),
    ),
  ),
  keyTyped: v.exactOptional(
    v.pipe(
      v.literal(true),
      v.description('The person types the answer to a seed, from whoever gives it out; `key` stays out then'),
    ),
  ),
  answerMs: v.exactOptional(
    amount('Longest wait for an answer, ms, until the unit says its own times; 150 where nothing is said'),
  ),
  eraseRoutine: hexadecimal('Routine that erases (service 31)'),
  checkRoutine: hexadecimal('Routine that gives the CRC-32 over a range'),
}
const Diagnostics = { page, ...Services }

const addresses = v.exactOptional(
  v.pipe(
    v.strictObject({
      target: oneByte('The controller’s address'),
      source: oneByte('The tester’s address'),
      functional: v.exactOptional(oneByte('Address that all controllers hear')),
    }),
    v.description('First byte of each frame (extended or mixed addressing); none where nothing is said'),
  ),
)
/** A further controller of a unit that has several on one bus. */
const Controller = v.strictObject({
  component: text('Component that it holds'),
  requestId: hexadecimal('Identifier of its requests'),
  answerId: hexadecimal('Identifier of its answers'),
  addresses,
  page,
  services: v.exactOptional(
    v.pipe(
      v.strictObject(Services),
      v.description('How it is brought to take a program; as the first one where nothing is said'),
    ),
  ),
})

const UdsDrive = v.strictObject({
  speaks: v.literal('uds'),
  bitsPerSecond: whole('Bit rate of the bus', 10_000),
  requestId: hexadecimal('Identifier of requests'),
  answerId: hexadecimal('Identifier of answers'),
  extended: v.exactOptional(v.pipe(v.boolean(), v.description('Identifiers of 29 bits'))),
  padding: v.exactOptional(
    v.pipe(
      v.union([byte, v.literal('none')]),
      v.description(
        'Fills frames to eight bytes, 204 (CC) where nothing is said; "none" leaves them as short as what they carry',
      ),
    ),
  ),
  addresses,
  controllers: v.exactOptional(
    v.pipe(
      v.array(Controller),
      v.minLength(1),
      v.maxLength(32),
      v.description(
        'Further controllers of the unit, each with its component; what no entry names is held by the one above',
      ),
    ),
  ),
  periodic: v.exactOptional(
    v.pipe(
      v.strictObject({
        slowMs: v.exactOptional(period),
        mediumMs: v.exactOptional(period),
        fastMs: v.exactOptional(period),
        answerId: v.exactOptional(
          hexadecimal('Identifier that it sends on, as bare frames; its usual answers where nothing is said'),
        ),
      }),
      v.description(
        'How often it sends data by itself (service 2A), by its rates; absent where it sends none. For logs alone',
      ),
    ),
  ),
  functionalId: v.exactOptional(
    hexadecimal('Identifier that all controllers hear: the others are silenced by it'),
  ),
  ...Diagnostics,
})
const KwpDrive = v.strictObject({
  speaks: v.literal('kwp'),
  target: hexadecimal('The controller’s address'),
  source: v.exactOptional(oneByte('The tester’s address; F1 where nothing is said')),
  wake: v.picklist(['fast', 'five-baud']),
  addressed: v.exactOptional(
    v.pipe(
      v.boolean(),
      v.description(
        'Whether addresses stand in the head of a message; what its key bytes say where nothing is said',
      ),
    ),
  ),
  lengthIn: v.exactOptional(
    v.pipe(
      v.picklist(['either', 'format', 'byte']),
      v.description(
        'Where the length of a message stands: in the format byte, in a byte of its own, or in either; what its key bytes say where nothing is said',
      ),
    ),
  ),
  timing: v.exactOptional(
    v.pipe(
      v.picklist(['agreed', 'standard']),
      v.description('"standard" where it is not asked for quicker times (service 83)'),
    ),
  ),
  services: v.exactOptional(
    v.pipe(
      v.picklist(['14229', '14230']),
      v.description('The standard of its services; 14229 where nothing is said, 14230 for the older ones'),
    ),
  ),
  routineResults: v.exactOptional(
    v.pipe(v.literal(true), v.description('The result of a routine is asked for by itself (service 33)')),
  ),
  transferBytes: v.exactOptional(
    whole('Data bytes of one transfer message; what it says itself where nothing is said', 1),
  ),
  ...Diagnostics,
})

/** Sessions of the newer services have seven bits: the eighth asks for no answer. */
function checkSessions(sessions: readonly number[] | undefined, place: string, fault: Fault): void {
  sessions?.forEach((session, index) => {
    if (session > 127) fault(`${place}.sessions.${index}`, 'A session is 127 at the most')
  })
}

/** What only the older services have, and the one byte that their routines are called by. */
function checkOlder(drive: v.InferOutput<typeof KwpDrive>, place: string, fault: Fault): void {
  const isOlder = drive.services === '14230'
  drive.page.forEach(({ local, identification }, index) => {
    if (!isOlder && (local !== undefined || identification !== undefined))
      fault(`${place}.page.${index}`, 'Only the older services have this: say `services` "14230"')
  })
  if (!isOlder) {
    checkSessions(drive.sessions, place, fault)
    if (drive.routineResults) fault(`${place}.routineResults`, 'Only the older services have this')
    if (drive.transferBytes !== undefined)
      fault(`${place}.transferBytes`, 'Only the older services have this')
    return
  }
  const routines: [string, number][] = [
    ['eraseRoutine', drive.eraseRoutine],
    ['checkRoutine', drive.checkRoutine],
    ...(drive.before ?? []).map(({ routine }, index): [string, number] => [
      `before.${index}.routine`,
      routine,
    ]),
    ...(drive.after ?? []).map(({ routine }, index): [string, number] => [`after.${index}.routine`, routine]),
  ]
  for (const [at, routine] of routines)
    if (routine > 0xff) fault(`${place}.${at}`, 'Routines of the older services have one byte: "0x02"')
}

function checkKey(
  {
    key,
    keyTyped,
    securityLevel,
  }: Pick<v.InferOutput<typeof UdsDrive>, 'key' | 'keyTyped' | 'securityLevel'>,
  place: string,
  fault: Fault,
): void {
  if (key && keyTyped) fault(`${place}.keyTyped`, 'The key is worked out by `key`: nobody types it')
  if (keyTyped && securityLevel === undefined)
    fault(`${place}.keyTyped`, 'Without `securityLevel` the unit asks for no key')
}

/** Two controllers that answer to one identifier, hold one component, or say one line, cannot be told apart. */
function checkControllers(drive: v.InferOutput<typeof UdsDrive>, place: string, fault: Fault): void {
  const { controllers = [] } = drive
  type Reached = Pick<typeof drive, 'requestId' | 'answerId' | 'addresses'>
  const all: Reached[] = [drive, ...controllers]
  /** No two share an identifier, unless a byte of address tells them apart; what one asks by, none answers by. */
  const isTaken = (own: Reached, index: number) =>
    all
      .slice(0, index)
      .some(
        (each) =>
          own.requestId === each.answerId ||
          own.answerId === each.requestId ||
          ((own.requestId === each.requestId || own.answerId === each.answerId) &&
            own.addresses?.target === each.addresses?.target),
      )
  const lines = new Set(drive.page.map(({ field }) => field))
  controllers.forEach((each, index) => {
    const at = `${place}.controllers.${index}`
    if (isTaken(each, index + 1))
      fault(
        `${at}.requestId`,
        'Another controller has one of its identifiers, and no address tells them apart',
      )
    if (!each.addresses !== !drive.addresses)
      fault(`${at}.addresses`, 'All controllers of a link have a byte of address, or none has')
    if (controllers.findIndex(({ component }) => component === each.component) < index)
      fault(`${at}.component`, `Another controller holds "${each.component}"`)
    each.page.forEach(({ field, local, identification }, line) => {
      if (lines.has(field)) fault(`${at}.page.${line}.field`, `Another controller says "${field}"`)
      lines.add(field)
      if (local !== undefined || identification !== undefined)
        fault(`${at}.page.${line}`, 'Only the older services have this')
    })
    if (!each.services) return
    checkKey(each.services, `${at}.services`, fault)
    checkSessions(each.services.sessions, `${at}.services`, fault)
  })
}

/** Diagnostic services on the vehicle bus, behind a CAN adapter on a serial line. */
export const uds = {
  schema: UdsDrive,
  protocol: 'uds',
  kinds: ['can'],
  line: true,
  check(drive, place, fault) {
    checkKey(drive, place, fault)
    checkSessions(drive.sessions, place, fault)
    checkControllers(drive, place, fault)
  },
} satisfies DriveForm<typeof UdsDrive>
/** The same services on the single wire. */
export const kwp = {
  schema: KwpDrive,
  protocol: 'kwp',
  kinds: ['kline'],
  line: true,
  check(drive, place, fault) {
    checkKey(drive, place, fault)
    checkOlder(drive, place, fault)
  },
} satisfies DriveForm<typeof KwpDrive>
