import { Problem } from '@bench-wake/core/kernel'
import { standInPort } from '@bench-wake/core/link'
import { isPractice, practicePrefix } from '@bench-wake/core/unit'

/**
 * Practice and work never meet: a unit that is only practised on is reached over its own stand-in alone, and that stand-in
 * answers for no other unit, though it says the same serial.
 * @throws Problem `practice-only`.
 */
export function refusePractice(portId: string, unitId: string): void {
  const practised = isPractice(unitId)
  if (portId === standInPort(unitId)) return
  if (practised)
    throw new Problem({
      kind: 'practice-only',
      thing: unitId,
      says: 'this unit is only practised on, and is never written over another port',
      expected: standInPort(unitId),
      found: portId,
      remedy: 'Choose its own stand-in, or open the job of the unit itself.',
    })
  if (portId.startsWith(standInPort(practicePrefix)))
    throw new Problem({
      kind: 'practice-only',
      thing: portId,
      says: 'this stand-in is there for practice, and says nothing of the unit itself',
      remedy: 'Choose the port that the unit is joined to.',
    })
}
