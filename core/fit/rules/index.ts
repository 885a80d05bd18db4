import type { FitRule } from '../question'
import { builtOptions } from './built-options'
import { chosenVariant } from './chosen-variant'
import { classIdentifier } from './class-identifier'
import { deviceIdentifier } from './device-identifier'
import { hardwareMajor } from './hardware-major'
import { imageIntact } from './image-intact'
import { imageKnown } from './image-known'
import { issuedSerial } from './issued-serial'
import { manifestAgrees } from './manifest-agrees'
import { memoryBounds } from './memory-bounds'
import { memoryLayout } from './memory-layout'
import { modelSize } from './model-size'
import { precursorDigest } from './precursor-digest'
import { protectedRanges } from './protected-ranges'
import { requiredRange } from './required-range'
import { sequenceNumber } from './sequence-number'
import { testRelease } from './test-release'
import { vendorIdentifier } from './vendor-identifier'
import { versionDirection } from './version-direction'
import { waysAgree } from './ways-agree'

/** Conditions on what the image is and what the unit is: they hold whatever version is on it. */
export const standingRules: readonly FitRule[] = [
  imageKnown,
  waysAgree,
  deviceIdentifier,
  vendorIdentifier,
  classIdentifier,
  hardwareMajor,
  modelSize,
  issuedSerial,
  memoryLayout,
  chosenVariant,
  builtOptions,
  protectedRanges,
  memoryBounds,
  imageIntact,
  manifestAgrees,
  testRelease,
]

/** Conditions on the step from the version that is on the unit to the image's. */
export const stepRules: readonly FitRule[] = [
  versionDirection,
  requiredRange,
  precursorDigest,
  sequenceNumber,
]

/** Every condition of fit, in the order a person wants to hear them. */
export const fitRules: readonly FitRule[] = [...standingRules, ...stepRules]
