import type { FrameForm } from '../schema'
import { isSlot, readBytes } from './template'

/** What is wrong with the description of a frame. */
export function frameFormFaults(form: FrameForm, fault: (at: string, says: string) => void): void {
  const tokens = readBytes(form.layout)
  const slots = tokens.filter(isSlot)
  for (const { slot, format } of slots) {
    if (!['length', 'sequence', 'payload', 'checksum'].includes(slot))
      fault('frame.layout', `A frame has no {${slot}}: length, sequence, payload and checksum`)
    else if (slot !== 'payload' && !/^(u(8|16|24|32)(le|be)?)?$/.test(format))
      fault('frame.layout', `{${slot}} wants a width: {${slot}:u16be}`)
  }
  const has = (slot: string) => slots.filter((each) => each.slot === slot).length
  if (has('payload') !== 1) fault('frame.layout', 'A frame has one {payload}')
  for (const slot of ['length', 'sequence', 'checksum'])
    if (has(slot) > 1) fault('frame.layout', `{${slot}} stands twice`)
  if (form.escape === 'none' && has('length') === 0)
    fault('frame.layout', 'Without {length} and without an escape nobody knows where it ends')
  if (has('checksum') === 1 && form.checksum === undefined)
    fault('frame.checksum', 'Say which checksum: a name, or the parameters of its CRC')
  if (has('checksum') === 0 && form.checksum !== undefined)
    fault('frame.layout', 'A checksum is named, and the layout has no {checksum}')
}
