import * as v from 'valibot'
import { linkScriptFaults, LinkScript, slotsOf, type Component } from '../../family'
import type { Clock } from '../../kernel'
import type { Port, SerialSettings } from '../port'
import { scriptDriver } from './script-loader'

/*
 * A device that is only ever asked what it shows: a meter of the bench, a second device beside a unit that is logged. It is
 * a script with one operation, `page`, whose lines it tells.
 */

/** It has no memory that anybody writes: its script is about no range. */
const noMemory = { bytes: 1, sectorBytes: 1, pageBytes: 1 }

/** A script with the operation `page` alone. */
export const PageScript = v.pipe(
  LinkScript,
  v.check(
    ({ operations }) => operations.page !== undefined && Object.keys(operations).length === 1,
    'It has one operation: page',
  ),
  v.rawCheck(({ dataset, addIssue }) => {
    if (!dataset.typed) return
    for (const { at, says } of linkScriptFaults(dataset.value, noMemory))
      addIssue({ message: `${at}: ${says}` })
  }),
)
export type PageScript = v.InferOutput<typeof PageScript>

/** How a device is asked in words of its own: what is sent, and the line that carries what it shows. */
export interface AskedLine {
  /** Empty where the device talks by itself. */
  sends: string
  lineEnd: '' | '\r' | '\n' | '\r\n'
  /** The line, with each figure in a slot of its own: `V={volts}`, `L={lambda} T={celsius}`. */
  answer: string
  withinMs: number
}

/** The script of a device that is asked by one line and answers by one; each slot is told as a line of that name. */
export function askedLineScript({ sends, lineEnd, answer, withinMs }: AskedLine): PageScript {
  return {
    speaks: 'script',
    operations: {
      page: {
        steps: [
          ...(sends === '' ? [] : [{ do: 'send' as const, text: sends + lineEnd }]),
          { do: 'expect', patterns: [{ line: answer }], withinMs },
          ...slotsOf(answer).map((slot) => ({ do: 'tell' as const, field: slot, value: `{${slot}}` })),
        ],
      },
    },
  }
}

/** The words of a script that `askedLineScript` makes; null for any other, which is changed as a profile is. */
export function askedLineWords(script: PageScript): AskedLine | null {
  const steps = script.operations.page?.steps ?? []
  const send = steps.find((step) => step.do === 'send')
  const expect = steps.find((step) => step.do === 'expect')
  const pattern = expect?.patterns[0]
  if (!expect || !pattern || !('line' in pattern)) return null
  const [, sends = '', end = ''] = /^([^\r\n]*)([\r\n]*)$/.exec(send?.text ?? '') ?? []
  const words = {
    sends,
    lineEnd: end as AskedLine['lineEnd'],
    answer: pattern.line,
    withinMs: expect.withinMs,
  }
  return JSON.stringify(askedLineScript(words)) === JSON.stringify(script) ? words : null
}

const itself: Component = {
  id: 'device',
  name: 'Device',
  memory: { erasedByte: 255, regions: [] },
  version: { scheme: 'dotted', downgrade: 'held' },
}

/**
 * Asks a device once what it shows.
 * @param port open, with the device's settings.
 * @returns what it shows, by the name of each line.
 * @throws Problem `no-answer`, and whatever else a script says.
 */
export async function shownLines(
  script: PageScript,
  line: SerialSettings,
  port: Port,
  clock: Clock,
): Promise<Map<string, string>> {
  const shown = new Map<string, string>()
  const driver = scriptDriver(port, clock, script, itself, line, (field, value) => {
    shown.set(field, value)
    return []
  })
  await driver.run('page')
  return shown
}
