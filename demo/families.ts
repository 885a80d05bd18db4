import { readFamily, type Family, type FamilyDocument } from '@bench-wake/core/family'
import beaconReceiver from './families/beacon-receiver.json' with { type: 'json' }
import boatDavit from './families/boat-davit.json' with { type: 'json' }
import buoyBattery from './families/buoy-battery.json' with { type: 'json' }
import craneScale from './families/crane-scale.json' with { type: 'json' }
import davitBase from './families/davit-base.json' with { type: 'json' }
import fogSignal from './families/fog-signal.json' with { type: 'json' }
import helmDisplay from './families/helm-display.json' with { type: 'json' }
import launchMotor from './families/launch-motor.json' with { type: 'json' }
import mainsRelay from './families/mains-relay.json' with { type: 'json' }
import marineRadio from './families/marine-radio.json' with { type: 'json' }
import relayDriver from './families/relay-driver.json' with { type: 'json' }
import signalDesk from './families/signal-desk.json' with { type: 'json' }
import stationInverter from './families/station-inverter.json' with { type: 'json' }
import tideGateController from './families/tide-gate-controller.json' with { type: 'json' }
import tideLogger from './families/tide-logger.json' with { type: 'json' }

/** The families of Corrie Sound Lights & Launches, as documents; the fog-signal controller first. */
export const demoFamilies = [
  fogSignal,
  marineRadio,
  stationInverter,
  buoyBattery,
  launchMotor,
  beaconReceiver,
  tideLogger,
  boatDavit,
  mainsRelay,
  signalDesk,
] as unknown as FamilyDocument[]

/** Equipment that was taught from its manual: what it says and hears is all in its profile, and no code here knows it. */
export const taughtFamilies = [
  tideGateController,
  craneScale,
  relayDriver,
  helmDisplay,
  davitBase,
] as unknown as FamilyDocument[]

/** The same, read. */
export const demoFamilyList: readonly Family[] = demoFamilies.map((document) => readFamily(document))
export const taughtFamilyList: readonly Family[] = taughtFamilies.map((document) => readFamily(document))

/** @throws Error for a family that is not in the scenario. */
export function demoFamily(id: string): Family {
  const family = [...demoFamilyList, ...taughtFamilyList].find((each) => each.id === id)
  if (!family) throw new Error(`no demo family ${id}`)
  return family
}

export const fogSignalFamily = demoFamily('fog-signal')
