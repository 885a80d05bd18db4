import {
  compilePattern,
  fillSlots,
  isSlot,
  readEither,
  type DriveOf,
  type LinkStep,
  type LinkStepOf,
  type Pattern,
  type SlotValue,
  type Token,
} from '@bench-wake/core/family'
import { asciiBytes, asciiText, concatBytes } from '@bench-wake/core/kernel'
import { encodeFrame, type Port } from '@bench-wake/core/link'
import type { Ear } from './scripted-ear'
import type { UnitMemory } from './unit-memory'

/** What a unit of a scripted link says: the texts that its script awaits, filled with what it knows. */
export class ScriptedWords {
  constructor(
    private readonly port: Port,
    private readonly script: DriveOf<'script'>,
    private readonly memory: UnitMemory,
    private readonly ear: Ear,
  ) {}

  /** A unit that refuses by a line does so for whatever it does not know. */
  async refuse(reason: string): Promise<void> {
    const form = Object.values(this.script.operations)
      .flatMap((operation) => operation?.steps ?? [])
      .flatMap((step) => (step.do === 'expect' ? step.patterns : step.do === 'page' ? step.until : []))
      .find((pattern) => 'line' in pattern && pattern.means === 'refused')
    if (form) await this.say(this.filled(form, reason, []))
  }

  progress(patterns: readonly Pattern[]): (done: number, total: number) => Promise<void> {
    const pattern = patterns.find(({ means }) => means === 'progress')
    return async (done, total) => {
      if (!pattern) return
      Object.assign(this.ear.slots, { done, total })
      await this.say(this.filled(pattern, null, []))
    }
  }

  /** Values for the slots of an answer: lines of the page by what `tell` makes of them, else what the unit knows. */
  private valueFor(slot: string, steps: readonly LinkStep[]): SlotValue {
    for (const step of steps) {
      if (step.do === 'tell' && step.value.includes(`{${slot}`)) {
        const value = this.memory.line(step.field)
        if (value !== null) return value
      }
    }
    return this.ear.slots[slot] ?? 0
  }

  private filled(pattern: Pattern, reason: string | null, steps: readonly LinkStep[]): Uint8Array {
    const tokens: readonly Token[] = readEither(pattern)
    const slots = Object.fromEntries(
      tokens.filter(isSlot).map(({ slot, format }) => {
        const value = slot === 'reason' ? (reason ?? 0) : this.valueFor(slot, steps)
        // "2.1" where the pattern has a whole number is its first: the 2.
        const isNumber = /^(u|dec|l?hex)/.test(format) && typeof value === 'string'
        return [slot, isNumber ? parseInt(value, format.includes('hex') ? 16 : 10) || 0 : value]
      }),
    )
    const bytes = fillSlots(tokens, slots)
    // A slot that ends with the line wants one.
    return compilePattern(pattern).parts.at(-1)?.kind === 'line-end' && !/[\r\n]$/.test(asciiText(bytes))
      ? concatBytes([bytes, asciiBytes('\r\n')])
      : bytes
  }

  async answer(
    patterns: readonly Pattern[],
    refusal: string | null,
    steps: readonly LinkStep[],
  ): Promise<boolean> {
    const refused = patterns.find(({ means }) => means === 'refused')
    const pattern = refusal === null ? patterns.find(({ means = 'go' }) => means === 'go') : refused
    if (pattern) await this.say(this.filled(pattern, refusal, steps))
    return refusal === null
  }

  async answerFrame(
    step: LinkStepOf<'frame'>,
    refusal: string | null,
    steps: readonly LinkStep[],
  ): Promise<boolean> {
    const refused = step.answer.find(({ means }) => means === 'refused')
    const pattern = refusal === null ? step.answer.find(({ means = 'go' }) => means === 'go') : refused
    if (pattern && this.ear.dialect)
      await this.say(encodeFrame(this.ear.dialect, this.filled(pattern, refusal, steps), this.ear.sequence))
    return refusal === null
  }

  say(bytes: Uint8Array): Promise<void> {
    return bytes.length === 0 ? Promise.resolve() : this.port.write(bytes)
  }
}
