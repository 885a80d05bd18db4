import { applicationRegions, type Component, type DrivenLink, type Family } from '../family'
import { inSentence, type Finding } from '../kernel'
import { keepsFaults, linkPageMs, linkReads } from '../link'
import { enterStep, powerCyclePersonMs, readOutStep, step, untilRead, verifyMs, type Load } from './plan'
import { planSwap } from './plan-by-hand'
import type { Step } from './step'

/**
 * What a job is for (PRACTICE C7, G1, H2, J1). `write` changes the firmware, and so does `chip`: one that came ready
 * programmed, with no image of it here. The others find out something and leave the unit as it was.
 */
export const tasks = ['write', 'read-out', 'check', 'codes', 'chip'] as const
export type Task = (typeof tasks)[number]
/** A task without an image to be written. */
export type LookTask = Exclude<Task, 'write'>
/** A chip that came ready programmed: what stands on it, and the version it should show where the label says one. */
export interface ReadyChip {
  label: string
  mark: string
  version?: string | undefined
}

/** Whether a run changes the firmware; older records and jobs say nothing, and all of them wrote. */
export const writes = ({ task = 'write' }: { task?: Task }): boolean => task === 'write' || task === 'chip'

/** What the person reads of it, on a button and in the record. */
export const taskText: Record<Task, string> = {
  write: 'Write firmware',
  'read-out': 'Read out the original',
  check: 'Compare an image with the unit',
  codes: 'Read the fault codes',
  chip: 'Fit a chip that came ready programmed',
}

/** Time a person takes to write codes down and decide whether they are cleared (common practice). */
const codesPersonMs = 30_000

/**
 * The steps of a task that writes nothing.
 * @param loads of the image that is compared; empty for the others.
 */
export function planTask(
  task: LookTask,
  family: Family,
  component: Component,
  link: DrivenLink | null,
  loads: readonly Load[] = [],
): Step[] {
  if (task === 'chip') return planSwap(family, component, { ready: true })
  if (!link) return []
  const talkMs = linkPageMs(link)
  const bytes = loads.reduce((sum, load) => sum + load.bytes.length, 0)
  const backOut = [
    step('restart', 'Start its firmware again, then power off and on', 2 * family.restart.readyMs + talkMs, {
      personMs: powerCyclePersonMs,
    }),
    step('prove', 'Read the unit again: nothing may have changed', talkMs),
  ]
  const head = untilRead(family, link)
  switch (task) {
    case 'read-out':
      return [
        ...head,
        enterStep(family, link),
        readOutStep('Read out what is in it', component, link),
        ...backOut,
      ]
    case 'check':
      return [
        ...head,
        enterStep(family, link),
        step('compare', 'Compare the image with what is in the unit', verifyMs(link, bytes) + talkMs, {
          handsOff: true,
        }),
        ...backOut,
      ]
    case 'codes':
      return [
        ...head,
        step('faults', 'Fault codes: read, and clear them only if you say so', 3 * talkMs, {
          personMs: codesPersonMs,
        }),
      ]
  }
}

/** Whether this program can do it over this link; for one that it does not drive it can only lead by hand. */
export function judgeTask(
  task: LookTask,
  component: Component,
  link: DrivenLink | null,
  image: { chosen: boolean; trouble?: string | undefined },
  chip: { socket: boolean; said?: ReadyChip | undefined } = { socket: false },
): Finding {
  const finding = (level: Finding['level'], says: string, because: string, remedy?: string): Finding => ({
    rule: 'task',
    level,
    says,
    because,
    ...(remedy ? { remedy } : {}),
  })
  if (task === 'chip') {
    if (!chip.socket)
      return finding(
        'stop',
        'This unit has no chip in a socket.',
        'Its profile describes no way of changing one.',
        'Write it over its link.',
      )
    const { label = '', mark = '', version } = chip.said ?? {}
    if (!label.trim() || !mark.trim())
      return finding(
        'stop',
        'What stands on the chip is not noted yet.',
        'Without an image its label and its maker’s mark are all that tells which chip went in.',
        'Note both before the unit is opened.',
      )
    return finding(
      'go',
      `The chip goes in as it came: ${label.trim()}, ${mark.trim()}.`,
      version
        ? `Its label says ${version}; the unit has to show that afterwards.`
        : 'Its label says no version; what the unit shows afterwards is noted.',
    )
  }
  if (!link)
    return finding(
      'stop',
      'This program does not drive the unit’s link.',
      `${taskText[task]} goes over a link that is driven from here.`,
      'Do it with the maker’s own tool, and keep what it says at the unit.',
    )
  if (task === 'read-out' && !linkReads(link))
    return finding(
      'stop',
      'This link cannot read the memory out of the unit.',
      'Its bootloader has no such command.',
      'Read it with a programmer, and bring the file to the shelf.',
    )
  if (task === 'codes' && !keepsFaults(link))
    return finding(
      'stop',
      'This link has no fault codes to read.',
      'Codes are read by diagnostic services, which this unit does not speak.',
      'Look at its own display or log, and type its page.',
    )
  if (task === 'check' && !image.chosen)
    return finding(
      'stop',
      'No image is chosen to compare with.',
      'The unit alone does not tell what it should hold.',
      'Choose the image.',
    )
  if (task === 'check' && image.trouble !== undefined)
    return finding('stop', image.trouble, 'Nothing of it can be compared.', 'Choose another image.')
  return finding(
    'go',
    'Nothing is written: the unit stays as it is.',
    task === 'read-out'
      ? `All that the ${inSentence(component.name)} may hold is read twice, ${applicationRegions(component).length === 1 ? 'from one region' : `from ${applicationRegions(component).length} regions`}.`
      : task === 'check'
        ? 'The image is compared byte by byte, or by its checksum, as the link allows.'
        : 'Codes are read; they are cleared only if you say so.',
  )
}
