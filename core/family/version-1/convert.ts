/*
 * A profile of format version 1, carried over into today's. Version 1 knew one kind of unit on a serial line: a console
 * whose lines end, and a bootloader with five commands around a block transfer. Today a link is data, so these are steps
 * as any other unit's; and some keys have the words of the trade.
 */

type Fields = Record<string, unknown>

const isRecord = (value: unknown): value is Fields =>
  typeof value === 'object' && value !== null && !Array.isArray(value)

/** Keys that have another name today, wherever they stand. */
const renamed: Readonly<Record<string, string>> = {
  stones: 'mandatoryVersions',
  aftercare: 'postUpdateTasks',
  swap: 'chipReplacement',
  curedIn: 'fixedIn',
  mostBytes: 'maxBytes',
  mostPayload: 'maxPayload',
  most: 'max',
  least: 'min',
  mostMs: 'maxMs',
  leastMs: 'minMs',
}

/**
 * @param document parsed JSON of version 1.
 * @returns the same equipment as a document of version 2; what is no profile at all is left for the schema to refuse.
 */
export function convertVersion1(document: Fields): Fields {
  const links = Array.isArray(document['links']) ? (document['links'] as unknown[]) : undefined
  const { hardware, updates } = document
  const converted = {
    ...document,
    formatVersion: 2,
    ...(isRecord(hardware) && { hardware: convertHardware(hardware) }),
    ...(isRecord(updates) && { updates: convertUpdates(updates) }),
    ...(links && { links: links.map((link) => (isRecord(link) ? convertLink(link, document) : link)) }),
  }
  return rename(converted) as Fields
}

function rename(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(rename)
  if (!isRecord(value)) return value
  return Object.fromEntries(Object.entries(value).map(([key, each]) => [renamed[key] ?? key, rename(each)]))
}

/** An object with some of its keys under another name, in their place. */
const withKeys = (value: Fields, names: Readonly<Record<string, string>>): Fields =>
  Object.fromEntries(Object.entries(value).map(([key, each]) => [names[key] ?? key, each]))

function convertHardware(hardware: Fields): Fields {
  const { revisions } = hardware
  if (!Array.isArray(revisions)) return hardware
  const names = { told: 'identifiedBy', signs: 'markings' }
  return { ...hardware, revisions: revisions.map((each) => (isRecord(each) ? withKeys(each, names) : each)) }
}

function convertUpdates(updates: Fields): Fields {
  const { path, ...rest } = withKeys(updates, { hops: 'path' })
  return { path: path === 'house' ? 'workshop' : path, ...rest }
}

function convertLink(link: Fields, document: Fields): Fields {
  // Loose wires to a serial header are a serial line as any other.
  if (link['kind'] === 'wire') return { ...link, kind: 'serial' }
  if (isConsole(link)) return scriptedLink(link, document)
  const { drive } = link
  if (!isRecord(drive)) return link
  return { ...link, drive: convertDrive(drive) }
}

/** Bits that the seed was turned by where a profile gave its secret alone. */
const turnedBy = 7

function convertDrive(drive: Fields): Fields {
  const { secret, ...rest } = drive
  if (secret !== undefined && rest['key'] === undefined) {
    const key = [
      { do: 'rotate', left: turnedBy },
      { do: 'xor', by: secret },
    ]
    return { ...rest, key }
  }
  if (drive['speaks'] !== 'modbus' || !isRecord(drive['commands'])) return drive
  const { leave, ...commands } = drive['commands']
  return { ...drive, commands: { ...commands, ...(leave !== undefined && { start: leave }) } }
}

interface Exchange {
  send: string
  reads?: string
  progress?: string
  timeoutMs: number
}
/** A serial link of version 1, as far as the conversion leans on it. */
interface ConsoleLink {
  settings: { baudRate: number; dataBits: number; parity: string; stopBits: number }
  console: { lineEnd: string; done: string; refused: string; identify: Exchange }
  loader: {
    protocol: 'xmodem' | 'ymodem'
    blockBytes: 128 | 1024
    resumes?: boolean
    padByte: number
    ready: string
    identify: Exchange
    erase: Exchange
    write: Exchange
    rehearsal?: Exchange
    speeds?: number[]
    checksum: Exchange
    leave: Exchange
  }
}

const isExchange = (value: unknown): value is Exchange =>
  isRecord(value) && typeof value['send'] === 'string' && typeof value['timeoutMs'] === 'number'

function isConsole(link: Fields): link is Fields & ConsoleLink {
  const { kind, settings, console: words, loader } = link
  return (
    kind === 'serial' &&
    isRecord(settings) &&
    isRecord(words) &&
    isRecord(loader) &&
    isExchange(words['identify']) &&
    ['identify', 'erase', 'write', 'checksum', 'leave'].every((name) => isExchange(loader[name]))
  )
}

function scriptedLink(link: Fields & ConsoleLink, document: Fields): Fields {
  const { settings, console: words, loader, id, name, kind, ...rest } = link
  const { baudRate, dataBits } = settings
  return {
    id,
    name,
    kind,
    ...rest,
    protocol: 'script',
    // Nine of ten characters of such a transfer are the image's.
    bytesPerSecond: Math.floor((0.9 * baudRate) / (dataBits + 2)),
    line: settings,
    drive: {
      speaks: 'script',
      ...(loader.resumes !== undefined && { resumes: loader.resumes }),
      ...(loader.speeds && { slowerSpeeds: loader.speeds }),
      operations: operationsOf({ words, loader, ...enterable(document), sectors: mostSectors(document) }),
    },
  }
}

const enterable = ({ entry }: Fields) => ({
  byCommand: Array.isArray(entry) && entry.some((way) => isRecord(way) && way['kind'] === 'command'),
})

/** Sectors of the largest region: an erase told its progress by them, and each had its own time. */
function mostSectors({ components }: Fields): number {
  if (!Array.isArray(components)) return 1
  const counts = components.flatMap((component) => {
    const memory = isRecord(component) && isRecord(component['memory']) ? component['memory'] : {}
    const regions = Array.isArray(memory['regions']) ? memory['regions'].filter(isRecord) : []
    return regions.map(({ length, sectorBytes }) =>
      Math.ceil(Number(length ?? 0) / (Number(sectorBytes ?? 0) || 1024)),
    )
  })
  return Math.max(1, ...counts.filter(Number.isFinite))
}

const longestWaitMs = 3_600_000

function operationsOf(form: {
  words: ConsoleLink['console']
  loader: ConsoleLink['loader']
  byCommand: boolean
  sectors: number
}): Fields {
  const { words, loader, byCommand, sectors } = form
  const { lineEnd } = words
  const refused = { line: words.refused, means: 'refused' }
  const send = (text: string) => ({ do: 'send', text: text + lineEnd })
  const expect = (line: string, withinMs: number) => ({
    do: 'expect',
    patterns: [{ line }, refused],
    withinMs,
  })
  const page = ({ send: asks, timeoutMs }: Exchange) => ({
    steps: [send(asks), { do: 'page', until: [{ line: words.done }, refused], withinMs: timeoutMs }],
  })
  const transfer = ({ send: asks, reads, timeoutMs }: Exchange) => ({
    steps: [
      send(asks),
      expect(reads ?? words.done, timeoutMs),
      {
        do: 'transfer',
        ...(loader.protocol === 'ymodem'
          ? { by: 'ymodem', fileName: '{component}.bin' }
          : { by: loader.blockBytes === 128 ? 'xmodem' : 'xmodem-1k' }),
        padByte: loader.padByte,
      },
      send(''),
      expect(loader.ready, timeoutMs),
    ],
  })
  const { erase, checksum, leave } = loader
  const erased = expect(words.done, erase.timeoutMs)
  return {
    page: page(words.identify),
    ...(byCommand && { enter: { steps: [send('{command}'), expect(words.done, words.identify.timeoutMs)] } }),
    attach: {
      // What it refuses first may be the rest of what went before: a transfer that was cancelled.
      steps: [
        {
          do: 'repeat',
          steps: [send('')],
          until: [{ line: loader.ready }],
          everyMs: Math.ceil(loader.identify.timeoutMs / 2),
          times: 2,
        },
      ],
    },
    identify: page(loader.identify),
    erase: {
      steps: [
        send(erase.send),
        erase.progress === undefined
          ? erased
          : {
              ...erased,
              patterns: [...erased.patterns, { line: erase.progress, means: 'progress' }],
              withinMs: Math.min(longestWaitMs, erase.timeoutMs * (sectors + 1)),
              silenceMs: erase.timeoutMs,
            },
      ],
    },
    ...(loader.rehearsal && { dryRun: transfer(loader.rehearsal) }),
    write: transfer(loader.write),
    check: {
      steps: [
        send(checksum.send),
        expect((checksum.reads ?? '').replace(/\{crc32(:[a-z0-9]+)?\}/, '{crc32:hex8}'), checksum.timeoutMs),
        expect(words.done, checksum.timeoutMs),
        { do: 'compare', slot: 'crc32', checksum: 'crc32' },
      ],
    },
    start: { steps: [send(leave.send), expect(words.done, leave.timeoutMs)] },
  }
}
