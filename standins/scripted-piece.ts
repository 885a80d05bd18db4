import type { DriveOf, LinkStep, OperationName } from '@bench-wake/core/family'
import { checksumOf } from '@bench-wake/core/link'
import type { Ear } from './scripted-ear'
import type { UnitForm, UnitMemory } from './unit-memory'

/** The piece of memory that is spoken of: which it is by what was heard, and what is done with it. */
export class ScriptedPiece {
  /** How far a transfer without addresses has come. */
  offset = 0

  constructor(
    private readonly form: UnitForm & { link: { drive: DriveOf<'script'> } },
    private readonly memory: UnitMemory,
    private readonly ear: Ear,
  ) {}

  get componentId(): string {
    return String(this.ear.slots['component'] ?? this.form.family.components[0]!.id)
  }

  range(): { address: number; length: number } {
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

  read(address: number, length: number): Uint8Array {
    const flash = this.memory.flash(this.componentId)
    return flash.bytes.slice(address - flash.address, address - flash.address + length)
  }

  /** Does what an operation asks with one piece. @returns why not, or null. */
  async act(
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
}
