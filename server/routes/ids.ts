import { notFound } from '../problem'

/** A number within a path. @throws Problem `not-found` for what is none. */
export function idIn(param: string): number {
  const id = Number(param)
  if (!/^\d{1,15}$/.test(param) || !Number.isSafeInteger(id)) throw notFound('row', param)
  return id
}
