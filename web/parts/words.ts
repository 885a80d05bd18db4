import type { ReasonKind } from '@bench-wake/core/fit'
import type { Snapshot } from '@bench-wake/core/unit'
import type { ShelfImage } from '@bench-wake/server'
import type { Verdict } from '@bench-wake/core/kernel'

export const verdictWords: Record<Verdict, string> = {
  go: 'Go',
  note: 'Note',
  hold: 'Hold',
  stop: 'Stop',
  unknown: 'Not known',
}

const two = (value: number) => String(value).padStart(2, '0')

/** `14:32`, this computer's time. */
export function timeText(at: number): string {
  const time = new Date(at)
  return `${two(time.getHours())}:${two(time.getMinutes())}`
}

/** `14:32:07.412`. */
export function exactTimeText(at: number): string {
  const time = new Date(at)
  return `${timeText(at)}:${two(time.getSeconds())}.${String(time.getMilliseconds()).padStart(3, '0')}`
}

/** `24 Nov 2026`. */
export function dayText(at: number | string): string {
  return new Date(at).toLocaleDateString('en-GB', { day: 'numeric', month: 'short', year: 'numeric' })
}

/** `today`, `tomorrow`, else `24 Nov 2026`, of a day `2026-11-24`. */
export function nearDayText(day: string): string {
  const ahead = (days: number) => new Date(Date.now() + days * 86_400_000).toISOString().slice(0, 10)
  return day === ahead(0) ? 'today' : day === ahead(1) ? 'tomorrow' : dayText(day)
}

/** `24 Nov 2026, 14:32`. */
export function whenText(at: number): string {
  return `${dayText(at)}, ${timeText(at)}`
}

/** `14:32` today, `19 Nov 2026` before. */
export function agoText(at: number): string {
  return new Date(at).toDateString() === new Date().toDateString() ? timeText(at) : dayText(at)
}

export const sourceWords: Record<Snapshot['source'], string> = {
  link: 'read over the link',
  menu: 'from its menu',
  'boot-screen': 'from its start screen',
  label: 'from its label',
  app: 'from its app or service program',
  'chip-marking': 'from the chip’s marking',
}

export const formatWords: Record<ShelfImage['format'], string> = {
  ihex: 'Intel HEX',
  srec: 'S-record',
  elf: 'ELF',
  uf2: 'UF2',
  bin: 'plain binary',
}

export const placedWords: Record<ShelfImage['placed'], string> = {
  'by-file': 'the file says it',
  'by-person': 'a person said it',
  'by-profile': 'a profile knows these bytes',
  'not-known': 'not known',
}

export const reasonWords: Record<ReasonKind, string> = {
  fault: 'A known fault',
  feature: 'A feature',
  currency: 'To be current',
}

/** What became of one thing after the proof. */
export const postUpdateOutcomeWords = {
  done: 'Done and well',
  failed: 'Not well',
  'not-needed': 'Not needed here',
} as const

/** What kind of thing is due after the proof. */
export const postUpdateKindWords = {
  scare: 'Looks alarming, is normal',
  'function-test': 'Function test',
  'fault-codes': 'Fault codes',
  're-learn': 'Learn again',
  bind: 'Bind again',
  settings: 'Settings',
  options: 'New option',
  network: 'Network',
} as const
