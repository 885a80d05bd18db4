import type { Family } from '../../family'
import { badBackup } from './bad-backup'
import { cutAt60 } from './cut-at-60'
import { faultKinds, type DrillOf, type FaultDrill, type FaultKind } from './fault-drill'
import { missedWindow } from './missed-window'
import { sag } from './sag'
import { secondUnit } from './second-unit'
import { swappedPair } from './swapped-pair'
import { wrongVariant } from './wrong-variant'

export { faultKinds, type DrillMove, type FaultDrill, type FaultKind } from './fault-drill'
export { beginDrill, drillOver, judgeMove, type DrillState } from './judge-moves'
export { missedAct } from './missed-window'

const drills: Record<FaultKind, DrillOf> = {
  'cut-at-60': cutAt60,
  'swapped-pair': swappedPair,
  sag,
  'second-unit': secondUnit,
  'wrong-variant': wrongVariant,
  'missed-window': missedWindow,
  'bad-backup': badBackup,
}

/** The faults that can be practised on a kind of equipment: those that its profile has the parts for. */
export function faultDrillsOf(family: Family): FaultDrill[] {
  return faultKinds.flatMap((kind) => {
    const drill = drills[kind](family)
    return drill ? [{ id: `${kind}-${family.id}`, kind, familyId: family.id, ...drill }] : []
  })
}
