import type { LinkStep, LinkStepOf, Operation } from '../../family'
import { groupedNumber } from '../../kernel'
import type { LinkProtocol, Over } from '../drive/protocol'
import { scriptLinkDriver } from './driver'
import { scriptAbilities } from './script-loader'
import { scriptLikelyMs, scriptTailMs, type ScriptTimeForm } from './script-time'

/** Erase and program units that a script's pieces are taken to have where no memory is told. */
const usualPieces = { sectorBytes: 1024, pageBytes: 256 }
/** A page by a script without any steps for it, ms. */
const usualPageMs = 200

const timeForm = ({ drive, line }: Over<'script'>, bytes: number): ScriptTimeForm => ({
  script: drive,
  settings: line!,
  bytes,
  ...usualPieces,
})

/** Steps of the profile, over a serial line. */
export const scriptProtocol: LinkProtocol<'script'> = {
  over: 'serial',
  open: (port, { clock, family, link, component }) =>
    scriptLinkDriver(port, clock, family, link, link.drive, component),
  says: ({ drive, line }) =>
    `${transferName(drive.operations.write)} at ${groupedNumber(line!.baudRate)} baud`,
  can: {
    reads: ({ drive }) => drive.operations.read !== undefined,
    verify: ({ drive }) => scriptAbilities(drive).verify,
    rehearses: ({ drive }) => drive.operations.dryRun !== undefined,
    resumes: ({ drive }) => drive.resumes ?? false,
    erasesFirst: ({ drive }) => drive.operations.erase !== undefined,
  },
  times: {
    writeMs: (link, bytes) => scriptLikelyMs(link.drive.operations.write, timeForm(link, bytes)),
    readMs: (link, bytes) => scriptLikelyMs(link.drive.operations.read, timeForm(link, bytes)),
    tailMs: (link, bytes, programMs) =>
      scriptTailMs(link.drive.operations.write, timeForm(link, bytes), programMs),
    pageMs(link) {
      const { page, identify } = link.drive.operations
      return scriptLikelyMs(page ?? identify, timeForm(link, 0)) || usualPageMs
    },
    liveMs(link) {
      const { live, page } = link.drive.operations
      return scriptLikelyMs(live ?? page, timeForm(link, 0)) || usualPageMs
    },
  },
  trace: {
    name: 'text console',
    // Most scripts are texts; what is none is shown as bytes.
    head: ({ drive }) => ({ speaks: drive.frame ? 'bytes' : 'console' }),
  },
}

const transferNames: Record<LinkStepOf<'transfer'>['by'], string> = {
  xmodem: 'XMODEM',
  'xmodem-1k': 'XMODEM-1K',
  ymodem: 'YMODEM',
  plain: 'Plain bytes',
  'ihex-lines': 'Intel HEX lines',
  'srec-lines': 'S-record lines',
}

/** How a script moves the image: by a block transfer that has a name, in frames, or in its own words. */
function transferName(write: Operation | undefined): string {
  const by = transferOf(write?.steps ?? [])
  return by ? transferNames[by] : 'By the steps of its profile'
}

function transferOf(steps: readonly LinkStep[]): LinkStepOf<'transfer'>['by'] | null {
  for (const step of steps) {
    if (step.do === 'transfer') return step.by
    const inside = step.do === 'each' || step.do === 'repeat' ? transferOf(step.steps) : null
    if (inside) return inside
  }
  return null
}
