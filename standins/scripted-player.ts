import {
  fillSlots,
  readyLine,
  operations,
  piecesOf,
  readText,
  type DriveOf,
  type LinkStep,
  type LinkStepOf,
  type OperationName,
} from '@bench-wake/core/family'
import { readIntelHex, readSRecord } from '@bench-wake/core/image'
import { asciiBytes, asciiText, concatBytes, hexNumber, isProblem, type Clock } from '@bench-wake/core/kernel'
import {
  checksumOf,
  isCommand,
  keyOfSeed,
  receiveXmodem,
  receiveYmodem,
  type Port,
} from '@bench-wake/core/link'
import type { Heard } from './heard'
import { Ear } from './scripted-ear'
import { ScriptedPiece } from './scripted-piece'
import { ScriptedWords } from './scripted-words'
import type { UnitForm, UnitMemory } from './unit-memory'

type Script = DriveOf<'script'>

/** Lines of the page that a bootloader itself can say. */
const ofBootloader: readonly string[] = ['deviceIdentifier', 'hardware', 'serial']
/** How much of the time until it is ready a unit takes to start, as the profile gives that with room. */
const bootShare = 0.6
/** In the firmware these are answered, in the bootloader all others. */
const ofFirmware: readonly OperationName[] = ['page', 'live', 'enter']

/** One life of the unit, from power on. */
export class ScriptedPlayer {
  private readonly ear: Ear
  private readonly piece: ScriptedPiece
  private readonly words: ScriptedWords

  constructor(
    private readonly form: UnitForm & { link: { drive: Script } },
    port: Port,
    private readonly memory: UnitMemory,
    private readonly line: { baudRate: number },
    private readonly clock: Clock,
    /** False once the supply was cut or the port closed: another life has begun, or none. */
    private readonly alive: () => boolean,
  ) {
    this.ear = new Ear(port, this.script.frame)
    this.piece = new ScriptedPiece(form, memory, this.ear)
    this.words = new ScriptedWords(port, this.script, memory, this.ear)
  }

  private get script(): Script {
    return this.form.link.drive
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
      // In its bootloader it is already, whatever its memory holds: that is not judged after each block of a write.
      if (!state.inBootloader && !this.memory.intact()) state.inBootloader = true
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
    if (this.form.state.inBootloader && line !== undefined) await this.words.say(asciiBytes(`${line}\r\n`))
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
    this.piece.offset = 0
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
            await this.words.refuse('unknown command')
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
    if (isPiece && actAt === -1) await this.piece.act(name, () => Promise.resolve(), steps)
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
        const refusal = act ? await this.piece.act(name, this.words.progress(step.patterns), steps) : null
        return this.words.answer(step.patterns, refusal, steps)
      }
      case 'frame': {
        if (!(await this.ear.take(step))) return false
        const refusal = act ? await this.piece.act(name, () => Promise.resolve(), steps) : null
        return this.words.answerFrame(step, refusal, steps)
      }
      case 'page': {
        const { family } = this.form
        const lines = family.snapshot.flatMap(({ field, reads }) => {
          // A bootloader knows what it stands in, not what its firmware will be.
          if (name === 'identify' && !ofBootloader.includes(field)) return []
          const value = this.memory.line(field)
          return value === null || !reads ? [] : [reads.replace('{value}', value)]
        })
        await this.words.say(asciiBytes(lines.map((line) => `${line}\r\n`).join('')))
        return this.words.answer(step.until, null, steps)
      }
      case 'repeat': {
        const first = firstOut(step.steps)
        for (let round = 0; round < (step.times > 2 ? 2 : 1); round++)
          if (first && !(await this.ear.take(first))) return false
        return this.words.answer(step.until, null, steps)
      }
      case 'each':
        return this.each(step, name)
      case 'transfer':
        return this.transfer(step, name, steps)
      case 'dump': {
        const { address, length } = this.piece.range()
        for (let at = address; at < address + length; at += 16) {
          const row = this.piece.read(at, Math.min(16, address + length - at))
          const text = fillSlots(
            readText(step.line.replace('{row:bytes}', [...row].map((byte) => hexNumber(byte, 2)).join(' '))),
            { at },
          )
          await this.words.say(concatBytes([text, asciiBytes('\r\n')]))
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
    const {
      length: regionLength,
      sectorBytes = 1024,
      pageBytes = 256,
    } = this.memory.region(this.piece.componentId)
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
      this.piece.offset += this.ear.data.length || size
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
      const { address, length } = this.piece.range()
      await this.words.say(this.piece.read(address, length))
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
    const { address: start, length } = this.memory.region(this.piece.componentId)
    const from = this.piece.range().address
    const flash = this.memory.flash(this.piece.componentId)
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
      await this.words.refuse(isProblem(error) ? error.facts.says : (error as Error).message)
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
          if (this.memory.covers(this.piece.componentId, address, bytes.length))
            await this.memory.flash(this.piece.componentId).program(address, bytes)
        }
      }
      if (step.answer) await this.words.answer(step.answer, null, [])
      if (last) return true
    }
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
