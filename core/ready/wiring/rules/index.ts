import type { WiringRule } from '../question'
import { adapterKind } from './adapter-kind'
import { adapterSchool } from './adapter-school'
import { adapterStanding } from './adapter-standing'
import { baudError } from './baud-error'
import { busTermination } from './bus-termination'
import { cableForm } from './cable-form'
import { dataPair } from './data-pair'
import { firmContact } from './firm-contact'
import { groundJoined } from './ground-joined'
import { jackPinout } from './jack-pinout'
import { logicLevel } from './logic-level'
import { noShort } from './no-short'
import { oneSupply } from './one-supply'
import { pinsJoined } from './pins-joined'
import { plugFaces } from './plug-faces'
import { signalsCrossed } from './signals-crossed'
import { supplyOpen } from './supply-open'

/** Conditions on the adapter alone: asked before anything is joined. */
export const adapterRules: readonly WiringRule[] = [
  adapterKind,
  adapterStanding,
  adapterSchool,
  cableForm,
  jackPinout,
  baudError,
]

/** Conditions on what is joined, what destroys first. */
export const joinRules: readonly WiringRule[] = [
  noShort,
  supplyOpen,
  oneSupply,
  logicLevel,
  groundJoined,
  pinsJoined,
  signalsCrossed,
  dataPair,
  busTermination,
  plugFaces,
  firmContact,
]

/** Those that can tell of one wire alone that it is wrong. */
export const wireRules: readonly WiringRule[] = [noShort, supplyOpen, signalsCrossed, dataPair, logicLevel]
