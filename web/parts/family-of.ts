import { readFamily, type Family, type FamilyDocument } from '@bench-wake/core/family'
import { toRaw } from 'vue'

const read = new WeakMap<FamilyDocument, Family>()

/** A kept profile as the program reads it; each document once, since reading takes milliseconds. @throws Problem `profile`. */
export function familyOf(document: FamilyDocument): Family {
  const raw = toRaw(document)
  let family = read.get(raw)
  if (!family) read.set(raw, (family = readFamily(raw)))
  return family
}
