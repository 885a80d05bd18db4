import {
  drivenLink,
  type DrivenLink,
  type Family,
  type LinkStep,
  type LinkStepOf,
  type Operation,
} from '../family'
import { groupedNumber, inSentence, verdictOf, type Finding } from '../kernel'
import { portClockText } from '../link'
import type { Gate } from './gate'
import { judgeScriptTried, type ScriptTried } from './script-tried'

/**
 * Whether this program can push an image to the family at all, over the link of the job. The bench is judged all the same.
 * @param linkId the link of the job; the family's first that is driven where nothing is said.
 * @param tried where a scripted link was carried out before; left out where that does not matter: nothing is written, or
 * it is only practised.
 * @param onStandIn it goes to a stand-in.
 */
export function judgeDriven(family: Family, linkId?: string, tried?: ScriptTried, onStandIn = false): Gate {
  const driven = drivenLink(family, linkId)
  const byMedium = (family.links.find(({ id }) => id === linkId) ?? family.links[0])?.medium
  const others = family.links.map((link) =>
    link.protocol === 'script' ? link.name : `${link.name} (${link.protocol})`,
  )
  const findings: Finding[] = [
    driven
      ? {
          rule: 'link-driven',
          level: 'go',
          says: `The image goes over the ${inSentence(driven.name)}.`,
          because: `${speechText(driven)}.`,
        }
      : byMedium?.update
        ? {
            rule: 'link-driven',
            level: 'go',
            says: `The unit takes its files from the ${byMedium.name} by itself.`,
            because: `${byMedium.update.prompts.length} questions of the unit, about ${byMedium.update.minutes} minutes. The run leads through them.`,
          }
        : family.chipReplacement
          ? {
              rule: 'link-driven',
              level: 'go',
              says: `The image goes in with a chip in its socket: ${family.chipReplacement.length} steps by hand.`,
              because: 'The run leads through them one by one, and keeps what was done.',
            }
          : {
              rule: 'link-driven',
              level: 'note',
              says: `This version judges a ${family.name}, but does not write to it yet.`,
              because: `Its links: ${others.join(', ')}.`,
              remedy: 'Write it with the tool you have for it, then read the unit and keep the page here.',
            },
  ]
  const trial = driven && tried && judgeScriptTried(driven, tried, onStandIn)
  if (trial) findings.push(trial)
  return { id: 'link', name: 'Link', verdict: verdictOf(findings), findings, numbers: {} }
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
function scriptSpeech(write: Operation | undefined): string {
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

/** What is spoken on a driven link, and how fast. */
export function speechText(link: DrivenLink): string {
  const { drive, line } = link
  switch (drive.speaks) {
    case 'script':
      return `${scriptSpeech(drive.operations.write)} at ${groupedNumber(line!.baudRate)} baud`
    case 'modbus':
      return `Modbus file records at ${groupedNumber(line!.baudRate)} baud, address ${drive.address}`
    case 'dfu':
      return 'USB update mode (DFU 1.1)'
    case 'uds':
      return `Diagnostic services on the vehicle bus at ${groupedNumber(drive.bitsPerSecond / 1000)} kbit/s`
    case 'kwp':
      return `Diagnostic services on the single wire at ${groupedNumber(line!.baudRate)} baud`
    case 'in-system':
      return `Six-line port at ${portClockText(drive)}`
    case 'spi-flash':
      return `Serial flash, the chip by itself, at ${groupedNumber(drive.hertz / 1000)} kHz`
    case 'debug':
      return `Serial wire at ${groupedNumber(drive.hertz / 1000)} kHz`
  }
}
