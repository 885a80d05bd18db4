import type { DriveOf } from '@bench-wake/core/family'
import type { Clock } from '@bench-wake/core/kernel'
import type { LineTarget } from './wire-target'

type InSystem = DriveOf<'in-system'>

export interface InSystemForm {
  clock: Pick<Clock, 'now'>
  drive: InSystem
  signature: string
  /** Program memory, from address 0 of its instructions. */
  memory: Uint8Array
  pageBytes: number
  /** Fuse bytes by id; kept when they are written. */
  fuses: Map<string, number>
  changed?(): void
  /** Bends what goes over the wires. */
  wire?(bit: boolean, direction: 'in' | 'out'): boolean
  busyForEver?: boolean
  /** Comes in step only at the second time it is asked: the first pulse of reset was missed. */
  missesFirst?: boolean
}

/**
 * The unit's half of a six-line port, by the instructions of its profile: held in reset it takes instructions of whole bytes,
 * each answer standing in the last of them. It must be let in first; a clock above a quarter of its own it does not follow;
 * a fuse that shuts the port shuts it.
 */
export function inSystemTarget(form: InSystemForm): LineTarget {
  const { drive, clock, memory, wire = (bit: boolean) => bit } = form
  const { instructions, fuses = [] } = drive
  const forms = instructionForms(drive)
  const buffer = new Uint8Array(form.pageBytes).fill(0xff)
  let held = false
  let letIn = false
  let entries = 0
  let tooFast = false
  let workUntil = 0
  let heard: number[] = []
  let [byteIn, bits] = [0, 0]
  let out = 0

  const busy = () => (form.busyForEver === true && workUntil > 0) || clock.now() < workUntil
  const work = (ms: number) => {
    workUntil = clock.now() + ms
    form.changed?.()
  }
  const shut = () =>
    fuses.some(({ id, bits: named }) =>
      named.some(
        ({ bit, locksOutAt }) =>
          locksOutAt !== undefined && (((form.fuses.get(id) ?? 0xff) >> bit) & 1) === locksOutAt,
      ),
    )
  const unreadable = () =>
    fuses.some(({ id, bits: named }) =>
      named.some(
        ({ bit, shutsReadingAt }) =>
          shutsReadingAt !== undefined && (((form.fuses.get(id) ?? 0xff) >> bit) & 1) === shutsReadingAt,
      ),
    )
  const placeOf = (address: number, high: boolean) =>
    drive.wordAddresses ? address * 2 + Number(high) : address

  /** The byte that goes out next, once so many are in. */
  const answer = (): number => {
    const match = forms.find((each) => each.resultAt === heard.length && each.fits(heard))
    if (!match) return 0xff
    const { address, index } = match.slots(heard)
    switch (match.name) {
      case 'enable':
        entries++
        letIn = !shut() && !(form.missesFirst && entries === 1)
        return letIn ? parseInt(drive.echo, 16) : 0x00
      case 'busy':
        return busy() ? parseInt(instructions.busy!.mask, 16) : 0
      case 'signature':
        return letIn ? parseInt(form.signature.slice(index * 2, index * 2 + 2), 16) : 0xff
      case 'read':
      case 'readHigh':
        if (!letIn || busy()) return 0xff
        return unreadable() ? address & 0xff : (memory[placeOf(address, match.name === 'readHigh')] ?? 0xff)
      default:
        return letIn && match.fuse !== undefined ? (form.fuses.get(match.fuse) ?? 0xff) : 0xff
    }
  }
  /** An instruction is whole: it is done. */
  const done = () => {
    const match = forms.find((each) => each.length === heard.length && each.fits(heard))
    if (!match) {
      // Out of step: it goes on only after reset.
      if (heard.length >= 4) heard = []
      return
    }
    const { address, data } = match.slots(heard)
    heard = []
    if (!letIn || busy()) return
    switch (match.name) {
      case 'erase':
        memory.fill(0xff)
        for (const { id, locks } of fuses) if (locks) form.fuses.set(id, 0xff)
        return work(drive.eraseMs)
      case 'load':
      case 'loadHigh':
        buffer[placeOf(address, match.name === 'loadHigh') % buffer.length] = data
        return
      case 'program': {
        const from = placeOf(address, false)
        const page = from - (from % buffer.length)
        for (let at = 0; at < buffer.length; at++) memory[page + at]! &= buffer[at]!
        buffer.fill(0xff)
        return work(drive.programMs)
      }
      case 'fuse-write':
        form.fuses.set(match.fuse!, data)
        return work(drive.fuseMs ?? drive.programMs)
    }
  }

  return {
    select() {},
    reset(high) {
      held = !high
      letIn = false
      heard = []
      ;[byteIn, bits] = [0, 0]
      out = 0
    },
    speed(hertz) {
      tooFast = hertz >= drive.unitHertz / 4
    },
    clock(_, data) {
      if (!held) return true
      const gives = wire(!!((out >> (7 - bits)) & 1), 'out')
      // What it cannot follow it takes wrongly.
      byteIn = (byteIn << 1) | Number(tooFast ? bits % 2 === 0 : wire(data, 'in'))
      if (++bits === 8) {
        heard.push(byteIn & 0xff)
        ;[byteIn, bits] = [0, 0]
        out = answer()
        done()
      }
      return gives
    },
  }
}

interface InstructionForm {
  name: string
  fuse?: string
  length: number
  /** Bytes in before the answer goes out; -1 where it has none. */
  resultAt: number
  fits(heard: readonly number[]): boolean
  slots(heard: readonly number[]): { address: number; index: number; data: number }
}

function instructionForms({ instructions, fuses = [] }: InSystem): InstructionForm[] {
  const { busy, ...plain } = instructions
  const formOf = (name: string, text: string, fuse?: string): InstructionForm => {
    const tokens = text.trim().split(/\s+/)
    const fixed = (token: string) => /^[0-9A-Fa-f]{2}$/.test(token)
    return {
      name,
      ...(fuse === undefined ? {} : { fuse }),
      length: tokens.length,
      resultAt: tokens.indexOf('r'),
      fits: (heard) => heard.every((byte, at) => !fixed(tokens[at]!) || parseInt(tokens[at]!, 16) === byte),
      slots(heard) {
        const said = { address: 0, index: 0, data: 0 }
        tokens.forEach((token, at) => {
          const byte = heard[at] ?? 0
          if (token === 'i') said.index = byte
          else if (token === 'd') said.data = byte
          else if (/^@[0-2]$/.test(token)) said.address |= byte << (8 * Number(token[1]))
        })
        return said
      },
    }
  }
  return [
    ...Object.entries(plain).flatMap(([name, text]) => (text === undefined ? [] : [formOf(name, text)])),
    ...(busy ? [formOf('busy', busy.ask)] : []),
    ...fuses.flatMap(({ id, read, write }) => [
      formOf('fuse-read', read, id),
      formOf('fuse-write', write, id),
    ]),
  ]
}
