import type { FamilyDocument, LinkStep, OperationName, Pattern } from '../schema'
import { beginFamily } from '../begin-family'
import { checksumNamed } from './checksums'
import type { TeachDraft } from './draft'
import { endPattern } from './marks'

/** A wait for an answer where nobody said how long it may take, ms. */
const usualWaitMs = 2000

type Operations = Partial<Record<OperationName, { steps: LinkStep[] }>>

/**
 * The profile that a draft makes. What is not known stays empty and is pointed at where a profile cannot do without it; an
 * operation that is not known is left out.
 */
export function profileOf(draft: TeachDraft): FamilyDocument {
  const document = beginFamily()
  const [component] = document.components
  const [link] = document.links
  const { about, memory, page, entry, power } = draft
  const facts = page?.facts ?? []
  const region = component!.memory.regions[0]!
  return {
    ...document,
    name: about.name,
    summary: about.summary,
    hardware: { deviceIdentifier: about.deviceIdentifier, revisions: [revisionOf(facts)] },
    id: about.id,
    components: [
      {
        ...component!,
        memory: {
          ...component!.memory,
          regions: [
            {
              ...region,
              address: memory?.address ?? '',
              length: memory?.length ?? '',
              ...(memory ? { sectorBytes: memory.sectorBytes } : {}),
            },
          ],
        },
      },
    ],
    snapshot: snapshotOf(document, facts),
    links: [
      {
        ...link!,
        line: draft.line,
        bytesPerSecond: Math.max(1, Math.floor((0.8 * draft.line.baudRate) / 10)),
        drive: { speaks: 'script', operations: operationsOf(draft) as never },
      },
    ],
    entry:
      entry?.how === 'command'
        ? [
            {
              id: 'by-command',
              name: 'By command',
              kind: 'command',
              send: entry.sends,
              settleMs: entry.settleMs,
              tries: 3,
            },
          ]
        : [
            {
              id: 'by-hand',
              name: 'By hand',
              kind: 'by-hand',
              steps: [entry?.does.trim() || 'Bring the unit into its bootloader as its manual says.'],
              settleMs: entry?.settleMs ?? 1000,
              tries: 3,
            },
          ],
    power: power ? { ...document.power, ...power } : { ...document.power, floorVolts: 0, ceilingVolts: 0 },
  }
}

/** The hardware that was seen: the first number of its line is the major. Another one is added when it is met. */
function revisionOf(
  facts: NonNullable<TeachDraft['page']>['facts'],
): FamilyDocument['hardware']['revisions'][number] {
  const line = facts.find(({ field }) => field === 'hardware')
  const major = Number(/\d+/.exec(line?.seen ?? '')?.[0] ?? 1)
  return {
    major,
    name: `Board ${major}`,
    identifiedBy: {
      by: 'link',
      says: line ? `The number in the line “${line.reads.replace('{value}', '…')}”.` : 'Nothing told it yet.',
    },
  }
}

/** The lines that were marked, in their order; then those that every profile has, without a form of their own. */
function snapshotOf(
  { snapshot }: FamilyDocument,
  facts: NonNullable<TeachDraft['page']>['facts'],
): FamilyDocument['snapshot'] {
  const change = (field: string) => (field.startsWith('version.') ? 'must' : 'must-not') as 'must'
  return [
    ...facts.map(({ field, label, reads }) => ({ field, label, reads, change: change(field) })),
    ...snapshot.filter(({ field }) => !facts.some((fact) => fact.field === field)),
  ]
}

function operationsOf(draft: TeachDraft): Operations {
  const { lineEnd, ends, refused, attach, erase, write, check, read, start, page, entry } = draft
  const send = (text: string): LinkStep => ({ do: 'send', text: text + lineEnd })
  const refusal: Pattern[] = refused ? [{ line: refused, means: 'refused' }] : []
  const ofFirmware = ends && endPattern(ends.by === 'line' ? { line: ends.text } : { prompt: ends.text })
  const shown = attach && endPattern(attach.by === 'line' ? { line: attach.text } : { prompt: attach.text })
  // A prompt of the bootloader ends its answers; where it shows itself by a line, they end as the firmware's do.
  const ofLoader = attach?.by === 'prompt' ? shown : (ofFirmware ?? shown)
  const expect = (patterns: (Pattern | null)[], withinMs = usualWaitMs): LinkStep => ({
    do: 'expect',
    patterns: [...patterns.filter((pattern) => pattern !== null), ...refusal],
    withinMs,
  })
  // A prompt that follows an answer is waited for: else it stands before the answer to the next question.
  const prompted = (): LinkStep[] => (attach?.by === 'prompt' ? wait([shown], usualWaitMs) : [])
  const line = (text: string): Pattern | null => (text.trim() === '' ? null : { line: text })
  const operations: Operations = {}
  if (page && ofFirmware)
    operations.page = {
      steps: [send(page.sends), { do: 'page', until: [ofFirmware, ...refusal], withinMs: usualWaitMs }],
    }
  const wait = (patterns: (Pattern | null)[], withinMs?: number): LinkStep[] =>
    patterns.some((pattern) => pattern !== null) ? [expect(patterns, withinMs)] : []
  if (entry?.how === 'command')
    operations.enter = { steps: [send('{command}'), ...wait([shown ?? ofFirmware])] }
  if (attach) operations.attach = { steps: [send(attach.sends), ...wait([shown], 1000)] }
  /** How an act ends: by its own line, else as the other answers do. */
  const endOf = (done = '') => line(done) ?? ofLoader
  const erased = erase && endOf(erase.done)
  if (erase && erased)
    operations.erase = {
      steps: [
        send(erase.sends),
        expect(
          [erased, erase.progress.trim() === '' ? null : { line: erase.progress, means: 'progress' }],
          erase.withinMs,
        ),
      ],
    }
  if (write) {
    const lines = write.by === 'ihex-lines' || write.by === 'srec-lines'
    const written = endOf(write.done)
    const steps: LinkStep[] = [
      ...(write.sends.trim() === '' ? [] : [send(write.sends)]),
      ...(write.announces.trim() === '' ? [] : [expect([line(write.announces)])]),
      {
        do: 'transfer',
        by: write.by,
        ...(write.by === 'ymodem' ? { fileName: 'image.bin' } : {}),
        ...(lines && written ? { answer: [written, ...refusal], withinMs: usualWaitMs } : {}),
      },
      ...(lines ? [] : wait([written], 5000)),
      ...(write.then.trim() === '' ? [] : [send(write.then), ...wait([ofLoader], 10_000)]),
    ]
    operations.write = {
      steps:
        write.pieceBytes === null ? steps : [{ do: 'each', of: 'chunk', bytes: write.pieceBytes, steps }],
    }
  }
  if (check)
    operations.check = {
      steps: [
        send(check.sends),
        ...wait([line(check.answers)], 5000),
        ...prompted(),
        { do: 'compare', slot: 'sum', checksum: checksumNamed(check.checksum) },
      ],
    }
  if (read)
    operations.read = {
      steps: [send(read.sends), { do: 'dump', line: read.line, withinMs: usualWaitMs }, ...prompted()],
    }
  if (start) operations.start = { steps: [send(start.sends)] }
  return operations
}
