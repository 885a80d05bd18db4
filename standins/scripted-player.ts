import {
  compilePattern,
  fillSlots,
  isSlot,
  readyLine,
  operations,
  piecesOf,
  readEither,
  readText,
  type DriveOf,
  type LinkStep,
  type LinkStepOf,
  type OperationName,
  type Pattern,
  type SlotValue,
  type Token,
} from '@bench-wake/core/family'
import { readIntelHex, readSRecord } from '@bench-wake/core/image'
import { asciiBytes, asciiText, concatBytes, hexNumber, isProblem, type Clock } from '@bench-wake/core/kernel'
import {
  checksumOf,
  encodeFrame,
  isCommand,
  keyOfSeed,
  receiveXmodem,
  receiveYmodem,
  type Port,
} from '@bench-wake/core/link'
import type { Heard } from './heard'
import { Ear } from './scripted-ear'
import type { UnitForm, UnitMemory } from './unit-memory'

type Script = DriveOf<'script'>

/** Lines of the page that a bootloader itself can say. */
const ofBootloader: readonly string[] = ['deviceIdentifier', 'hardware', 'serial']
/** How much of the time until it is ready a unit takes to start, as the profile gives that with room. */
const bootShare = 0.6
/** In the firmware these are answered, in the bootloader all others. */
const ofFirmware: readonly OperationName[] = ['page', 'enter']

/** One life of the unit, from power on. */
export class ScriptedPlayer {
  /** How far a transfer without addresses has come. */
  private offset = 0
  private readonly ear: Ear

  constructor(
    private readonly form: UnitForm & { link: { drive: Script } },
    private readonly port: Port,
    private readonly memory: UnitMemory,
    private readonly line: { baudRate: number },
    private readonly clock: Clock,
    /** False once the supply was cut or the port closed: another life has begun, or none. */
    private readonly alive: () => boolean,
  ) {
    this.ear = new Ear(port, this.script.frame)
  }

  private get script(): Script {
    return this.form.link.drive
  }
  private get componentId(): string {
    return String(this.ear.slots['component'] ?? this.form.family.components[0]!.id)
  }

  /**
   * Answers until it is switched off.
   * @param resumed steps of a way in that a reset began: they are played first.
   */
  async live(resumed: readonly LinkStep[] = []): Promise<void> {
    const { state, family } = this.form
    await this.steps(resumed, 'enter', false)
    if (!this.memory.intact()) state.inBootloader = true
    await this.greet()
    while (this.alive()) {
      if (!this.memory.intact()) state.inBootloader = true
      const name = await this.nextOperation()
      if (!name) continue
      await this.play(name)
      if (name === 'enter') {
        const way = family.entry.find(({ kind }) => kind === 'command')
        await this.clock.sleep((way?.settleMs ?? 0) / 2)
        state.inBootloader = true
        await this.greet()
      }
      if (name === 'start' && this.memory.intact()) {
        await this.clock.sleep(bootShare * family.restart.readyMs)
        state.inBootloader = false
      }
    }
  }

  /** A bootloader that shows itself by a line says it when it begins. */
  private async greet(): Promise<void> {
    const line = readyLine(this.script)
    if (this.form.state.inBootloader && line !== undefined) await this.say(asciiBytes(`${line}\r\n`))
  }

  /** Which operation begins with what comes; bytes that begin none are let go, and a line of them is refused. */
  private async nextOperation(): Promise<OperationName | null> {
    const { state } = this.form
    const names = operations.filter(
      (name) => this.script.operations[name] && ofFirmware.includes(name) !== state.inBootloader,
    )
    this.ear.slots = {
      ...(this.script.staging === undefined ? {} : { staging: this.script.staging }),
    }
    this.offset = 0
    let stray = false
    for (;;) {
      if (this.ear.buffer.length > 0) {
        let partly = false
        for (const name of names) {
          const { steps } = this.script.operations[name]!
          const first = firstOut(steps)
          // A way in over the control lines is no word on the line.
          if (!first || steps[0]!.do === 'lines') continue
          const heard = this.ear.hearStep(first)
          if (heard.state === 'whole' || (heard.state === 'so-far' && heard.open)) {
            // What stood before a line's end on its line was no question whether anybody is there.
            const empty = !isCommand(first) && first.do === 'send'
            if ((name !== 'enter' || this.isWayIn(heard)) && !(stray && empty)) return name
          }
          partly ||= heard.state === 'so-far'
        }
        if (!partly) {
          const [byte] = this.ear.buffer
          this.ear.buffer = this.ear.buffer.slice(1)
          if (byte !== 10 && byte !== 13) stray = true
          else if (stray) {
            stray = false
            await this.refuse('unknown command')
          }
          continue
        }
      }
      if (!(await this.ear.more(Infinity))) return null
    }
  }

  /** The running firmware goes to its bootloader at the word that its manual says, and at no other. */
  private isWayIn(heard: Heard): boolean {
    const command = heard.state === 'whole' ? heard.slots['command'] : undefined
    return (
      command === undefined ||
      this.form.family.entry.some((way) => way.kind === 'command' && way.send === String(command).trim())
    )
  }

  /** A unit that refuses by a line does so for whatever it does not know. */
  private async refuse(reason: string): Promise<void> {
    const form = Object.values(this.script.operations)
      .flatMap((operation) => operation?.steps ?? [])
      .flatMap((step) => (step.do === 'expect' ? step.patterns : step.do === 'page' ? step.until : []))
      .find((pattern) => 'line' in pattern && pattern.means === 'refused')
    if (form) await this.say(this.filled(form, reason, []))
  }

  private async play(name: OperationName): Promise<void> {
    const steps = this.script.operations[name]!.steps
    await this.steps(steps, name, !steps.some(({ do: does }) => does === 'each'))
  }

  /** @param isPiece these steps are all that is done with one piece of memory. */
  private async steps(steps: readonly LinkStep[], name: OperationName, isPiece: boolean): Promise<boolean> {
    const answers = steps.flatMap((step, index) =>
      ['expect', 'frame', 'page'].includes(step.do) ? [index] : [],
    )
    const asks = steps.flatMap((step, index) =>
      ['send', 'frame', 'transfer'].includes(step.do) ? [index] : [],
    )
    // What is asked is done before the first answer after the last thing that was asked.
    const actAt = answers.find((index) => index >= (asks.at(-1) ?? 0)) ?? -1
    for (const [index, step] of steps.entries()) {
      const act = isPiece && index === actAt
      if (!(await this.step(step, name, act, steps))) return false
    }
    if (isPiece && actAt === -1) await this.act(name, () => Promise.resolve(), steps)
    return true
  }

  private async step(
    step: LinkStep,
    name: OperationName,
    act: boolean,
    steps: readonly LinkStep[],
  ): Promise<boolean> {
    switch (step.do) {
      case 'send':
        return this.ear.take(step)
      case 'expect': {
        const refusal = act ? await this.act(name, this.progress(step.patterns), steps) : null
        return this.answer(step.patterns, refusal, steps)
      }
      case 'frame': {
        if (!(await this.ear.take(step))) return false
        const refusal = act ? await this.act(name, () => Promise.resolve(), steps) : null
        return this.answerFrame(step, refusal, steps)
      }
      case 'page': {
        const { family } = this.form
        const lines = family.snapshot.flatMap(({ field, reads }) => {
          // A bootloader knows what it stands in, not what its firmware will be.
          if (name === 'identify' && !ofBootloader.includes(field)) return []
          const value = this.memory.line(field)
          return value === null || !reads ? [] : [reads.replace('{value}', value)]
        })
        await this.say(asciiBytes(lines.map((line) => `${line}\r\n`).join('')))
        return this.answer(step.until, null, steps)
      }
      case 'repeat': {
        const first = firstOut(step.steps)
        for (let round = 0; round < (step.times > 2 ? 2 : 1); round++)
          if (first && !(await this.ear.take(first))) return false
        return this.answer(step.until, null, steps)
      }
      case 'each':
        return this.each(step, name)
      case 'transfer':
        return this.transfer(step, name, steps)
      case 'dump': {
        const { address, length } = this.range()
        for (let at = address; at < address + length; at += 16) {
          const row = this.read(at, Math.min(16, address + length - at))
          const text = fillSlots(
            readText(step.line.replace('{row:bytes}', [...row].map((byte) => hexNumber(byte, 2)).join(' '))),
            { at },
          )
          await this.say(concatBytes([text, asciiBytes('\r\n')]))
        }
        return true
      }
      case 'compute':
        this.ear.slots[step.into] = checksumOf(step.checksum, this.ear.data)
        return true
      case 'key': {
        const seed = this.ear.slots[step.seed]
        const bytes =
          seed instanceof Uint8Array
            ? seed
            : fillSlots([{ slot: 'seed', format: 'u32be' }], { seed: seed ?? 0 })
        this.ear.slots[step.into] = keyOfSeed(bytes, step.steps)
        return true
      }
      case 'speed':
        if (step.baudRate !== undefined) this.line.baudRate = step.baudRate
        return true
      case 'lines':
      case 'wait':
      case 'ask':
      case 'tell':
      case 'compare':
        return true
      default:
        return step satisfies never
    }
  }

  private async each(step: LinkStepOf<'each'>, name: OperationName): Promise<boolean> {
    const first = firstOut(step.steps)
    if (!first) return true
    const { length: regionLength, sectorBytes = 1024, pageBytes = 256 } = this.memory.region(this.componentId)
    const { size } = piecesOf(step, { sectorBytes, pageBytes }, regionLength)
    for (;;) {
      delete this.ear.slots['length']
      if (first.do !== 'transfer') {
        let heard = this.ear.hearStep(first)
        while (heard.state === 'so-far' && !heard.open) {
          await this.ear.more(Infinity)
          heard = this.ear.hearStep(first)
        }
        // Something else begins: the pieces are done.
        if (heard.state === 'no') return true
      }
      this.ear.slots['piece'] = size
      if (!(await this.steps(step.steps, name, true))) return false
      this.offset += this.ear.data.length || size
    }
  }

  private async transfer(
    step: LinkStepOf<'transfer'>,
    name: OperationName,
    steps: readonly LinkStep[],
  ): Promise<boolean> {
    const port = this.ear.asPort()
    const atOnce = !steps.slice(steps.indexOf(step) + 1).some(isCommand)
    if ((name === 'write' || name === 'dryRun') && atOnce && /modem/.test(step.by))
      return this.takeBlocks(step, name, port)
    if (name === 'read') {
      const { address, length } = this.range()
      await this.say(this.read(address, length))
      return true
    }
    const parts: Uint8Array[] = []
    const keep = (data: Uint8Array) => void parts.push(data.slice())
    if (step.by === 'xmodem' || step.by === 'xmodem-1k') await receiveXmodem(port, { onBlock: keep })
    else if (step.by === 'ymodem') await receiveYmodem(port, { onFile: () => {}, onData: keep })
    else if (step.by === 'plain') {
      const length = Number(this.ear.slots['length'] ?? this.ear.slots['size'] ?? 0)
      while (this.ear.buffer.length < length) await this.ear.more(Infinity)
      keep(this.ear.buffer.subarray(0, length))
      this.ear.buffer = this.ear.buffer.slice(length)
    } else return this.lines(step, name)
    const length = Number(this.ear.slots['length'] ?? Infinity)
    this.ear.data = concatBytes(parts).slice(0, length)
    return true
  }

  /** A transfer that no second command follows is programmed block by block: cut in the middle, a part of it is there. */
  private async takeBlocks(
    step: LinkStepOf<'transfer'>,
    name: 'write' | 'dryRun',
    port: Port,
  ): Promise<boolean> {
    const { address: start, length } = this.memory.region(this.componentId)
    const from = this.range().address
    const flash = this.memory.flash(this.componentId)
    const program = async (data: Uint8Array, at: number) => {
      // Padding after the last byte of the memory is thrown away; anything else there is refused.
      const fits = Math.max(0, start + length - (from + at))
      if (data.subarray(fits).some((byte) => byte !== (step.padByte ?? 0xff)))
        throw new RangeError('past the end of the memory')
      if (name === 'write') await flash.program(from + at, data.subarray(0, fits))
    }
    try {
      if (step.by === 'ymodem') await receiveYmodem(port, { onFile: () => {}, onData: program })
      else await receiveXmodem(port, { onBlock: program })
      this.ear.data = new Uint8Array(0)
      return true
    } catch (error) {
      if (!this.alive()) throw error
      await this.refuse(isProblem(error) ? error.facts.says : (error as Error).message)
      return false
    }
  }

  /** Record lines, each with its answer, until the one that ends the file. */
  private async lines(step: LinkStepOf<'transfer'>, name: OperationName): Promise<boolean> {
    const hexFile = step.by === 'ihex-lines'
    let file = ''
    for (;;) {
      const end = this.ear.buffer.findIndex((byte) => byte === 10 || byte === 13)
      if (end < 0) {
        await this.ear.more(Infinity)
        continue
      }
      const text = asciiText(this.ear.buffer.subarray(0, end)).trim()
      this.ear.buffer = this.ear.buffer.slice(end + 1)
      if (text === '') continue
      file += `${text}\n`
      const last = hexFile ? text.slice(7, 9) === '01' : /^S[789]/.test(text)
      if (last && name === 'write') {
        const { memory } = hexFile ? readIntelHex(asciiBytes(file)) : readSRecord(asciiBytes(file))
        for (const { address, bytes } of memory) {
          if (this.memory.covers(this.componentId, address, bytes.length))
            await this.memory.flash(this.componentId).program(address, bytes)
        }
      }
      if (step.answer) await this.answer(step.answer, null, [])
      if (last) return true
    }
  }

  private range(): { address: number; length: number } {
    const region = this.memory.region(this.componentId)
    const { address, length, end, last } = this.ear.slots
    const from = address === undefined ? region.address + this.offset : Number(address)
    const to = end === undefined ? (last === undefined ? undefined : Number(last) + 1) : Number(end)
    const usual = this.ear.data.length || Number(this.ear.slots['piece'] ?? region.length)
    return {
      address: from,
      length: length === undefined ? (to === undefined ? usual : to - from) : Number(length),
    }
  }

  private read(address: number, length: number): Uint8Array {
    const flash = this.memory.flash(this.componentId)
    return flash.bytes.slice(address - flash.address, address - flash.address + length)
  }

  /** Does what an operation asks with one piece. @returns why not, or null. */
  private async act(
    name: OperationName,
    progress: (done: number, total: number) => Promise<void>,
    steps: readonly LinkStep[],
  ): Promise<string | null> {
    const flash = this.memory.flash(this.componentId)
    if (name === 'start') return this.memory.intact() ? null : 'no application'
    const { address, length } = this.range()
    if (!['erase', 'write', 'check', 'read'].includes(name)) return null
    if (name === 'write' && this.ear.data.length === 0) return null
    const count = name === 'write' ? this.ear.data.length : length
    if (!this.memory.covers(this.componentId, address, Math.max(1, count))) return 'outside the application'
    if (name === 'erase') {
      // Settings that an update may change are lost by this one: the next page shows it.
      const { family, state } = this.form
      for (const { field, change } of family.snapshot)
        if (change === 'may' && state.lines?.[field] && !field.includes('.')) state.lines[field] = 'factory'
      await flash.erase(address, length, progress)
    }
    if (name === 'write') await flash.program(address, this.ear.data)
    if (name === 'read') this.ear.slots['data'] = this.read(address, length)
    const compare = steps.find((step) => step.do === 'compare')
    if (name === 'check' && compare?.do === 'compare')
      this.ear.slots[compare.slot] = checksumOf(compare.checksum, this.read(address, length))
    return null
  }

  private progress(patterns: readonly Pattern[]): (done: number, total: number) => Promise<void> {
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

  private async answer(
    patterns: readonly Pattern[],
    refusal: string | null,
    steps: readonly LinkStep[],
  ): Promise<boolean> {
    const refused = patterns.find(({ means }) => means === 'refused')
    const pattern = refusal === null ? patterns.find(({ means = 'go' }) => means === 'go') : refused
    if (pattern) await this.say(this.filled(pattern, refusal, steps))
    return refusal === null
  }

  private async answerFrame(
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

  private say(bytes: Uint8Array): Promise<void> {
    return bytes.length === 0 ? Promise.resolve() : this.port.write(bytes)
  }
}

/** The first step that sends, within loops too. */
function firstOut(steps: readonly LinkStep[]): LinkStep | undefined {
  for (const step of steps) {
    if (['send', 'frame', 'transfer'].includes(step.do)) return step
    if ((step.do === 'each' || step.do === 'repeat') && firstOut(step.steps)) return firstOut(step.steps)
  }
  return undefined
}
