import { isolationNow } from '@bench-wake/core/ready'
import type { WakeEvent } from '@bench-wake/core/run'
import type { StandIn } from './stand-in'

/**
 * What a person's hands do to a stand-in, as the record tells it: neighbours taken off before a leg are off its bus, its
 * supply is switched and its keys are held when the person says so. Nothing above a port moves a stand-in.
 */
export function followWake(unit: StandIn, { body }: WakeEvent): void {
  if (body.type === 'run.opened' || body.type === 'leg.opened')
    unit.unplug?.(isolationNow(body.bench ?? {})?.unplugged ?? [])
  if (body.type !== 'prompt.answered' || body.answer !== 'done') return
  if (body.prompt === 'power-cycle') unit.powerCycle()
  if (body.prompt === 'enter-by-hand') unit.enter?.()
}
