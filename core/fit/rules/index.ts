import type { FitRule } from '../question'
import { deviceIdentifier } from './device-identifier'
import { hardwareMajor } from './hardware-major'
import { imageIntact } from './image-intact'
import { imageKnown } from './image-known'
import { memoryBounds } from './memory-bounds'
import { versionDirection } from './version-direction'

/** Every condition of fit, in the order a person wants to hear them. */
export const fitRules: readonly FitRule[] = [
  imageKnown,
  deviceIdentifier,
  hardwareMajor,
  versionDirection,
  memoryBounds,
  imageIntact,
]
