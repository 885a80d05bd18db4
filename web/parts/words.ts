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
