import type { DriveOf, LinkStep, FamilyLink } from '@bench-wake/core/family'
import type { ControlLines, Port } from '@bench-wake/core/link'
import { serialLine } from './line'
import { ScriptedPlayer } from './scripted-player'
import type { StandIn } from './stand-in'
import { unitMemory, type UnitForm } from './unit-memory'

/*
 * A unit played from its profile alone: the script of its link from the other side. What the bench sends is awaited, what
 * it awaits is sent by an example of each pattern, and the memory erases, programs and sums as its regions say. So a
 * profile can be rehearsed, cut and recovered before a real unit is touched. It is no proof that a real unit talks so.
 */

type Script = DriveOf<'script'>
export interface ScriptedForm extends UnitForm {
  link: FamilyLink & { drive: Script }
}

/** Whether a stand-in can play a link: a transfer that the unit itself begins has to be announced by a word before it. */
export function isPlayable({ operations: own }: ScriptedForm['link']['drive']): boolean {
  return Object.values(own).every((operation) => {
    const first = operation?.steps.find(goesOut)
    return !first || first.do !== 'transfer' || first.by === 'plain' || /lines/.test(first.by)
  })
}

const goesOut = (step: LinkStep): boolean =>
  ['send', 'frame', 'transfer', 'lines'].includes(step.do) ||
  ('steps' in step && step.do !== 'key' && (step.steps as LinkStep[]).some(goesOut))

export function scriptedUnit(form: ScriptedForm): StandIn {
  const { state, family, link } = form
  const power = form.power
  let restart: (inBootloader: boolean) => void = (inBootloader) => void (state.inBootloader = inBootloader)
  return {
    id: form.id,
    name: form.name,
    familyId: family.id,
    linkId: link.id,
    channel: 'serial',
    hasMeter: false,
    connect(clock) {
      const memory = unitMemory(form, clock, power)
      const own = { ...link.line! }
      let life = 0
      const line = serialLine({
        name: form.name,
        clock,
        unit: own,
        follows: () => (state.inBootloader ? (link.drive.slowerSpeeds ?? []) : []),
        ...(form.faults?.disturb ? { disturb: form.faults.disturb } : {}),
        ...(power ? { powered: () => power.on } : {}),
        onLines: (lines) => resetBy(lines),
      })
      const { host } = line
      const begin = (inBootloader: boolean, resumed: readonly LinkStep[] = []) => {
        state.inBootloader = inBootloader || !memory.intact()
        own.baudRate = link.line!.baudRate
        line.interruptUnit()
        const mine = ++life
        const player = new ScriptedPlayer(form, line.unit, memory, own, clock, () => life === mine)
        // Ends when the port is closed or the supply is taken away: its read fails.
        void player.live(resumed).catch(() => {})
      }
      /** A way in over the control lines: their first movement resets the unit into its bootloader. */
      const resetBy = (lines: ControlLines) => {
        const [first, ...rest] = link.drive.operations.enter?.steps ?? []
        if (state.inBootloader || first?.do !== 'lines') return
        const { dtr, rts, brk } = first
        const same = (due: boolean | undefined, now: boolean | undefined) => due === undefined || due === now
        if (same(dtr, lines.dtr) && same(rts, lines.rts) && same(brk, lines.brk)) begin(true, rest)
      }
      const port: Port = {
        ...host,
        get settings() {
          return host.settings
        },
        async open(settings) {
          const joined = life > 0
          await host.open(settings)
          restart = begin
          // A link that changes its speed opens its port anew: the unit has not noticed.
          if (!joined) begin(state.inBootloader)
        },
        async close() {
          await host.close()
        },
      }
      return { channel: { kind: 'serial', port } }
    },
    powerCycle: () => restart(false),
    enter: () => restart(true),
    state: () => state,
  }
}
