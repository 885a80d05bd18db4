import { WakeBody } from '@bench-wake/core/run'
import * as v from 'valibot'

/** The body of a stored event. @param text as stored. @returns null where it cannot be read. */
export function bodyOf(text: string | null): WakeBody | null {
  try {
    const read = v.safeParse(WakeBody, JSON.parse(text ?? ''))
    return read.success ? read.output : null
  } catch {
    return null
  }
}
