export { FamilyProfile, type Family, type FamilyDocument } from './family-profile'
export { readingPlaces, type ReadingPlace, type Revision } from './hardware'
export { identityFields, type Component, type IdentityFieldName, type Region } from './component'
export type { SnapshotLineRule } from './snapshot'
export { Pin, pinRoles, type PinRole, type Wiring } from './wiring'
export { supplyKinds, type OrderItem, type PowerOrder } from './power'
export {
  Checksum,
  CrcModel,
  FrameForm,
  LinkScript,
  LinkStep,
  meanings,
  operations,
  plainSums,
  type LinkStepOf,
  type Operation,
  type OperationName,
  type Pattern,
} from './script'
export { hexadecimal, parities, text } from './fields'
export { KeyStep } from './key-steps'
export { driveForms, speeches, type Drive, type DriveOf, type Speech } from './drives'
export type { FlashSteps, MemoryStep } from './drives/flash-steps'
export { LineClock, LineSettings, type DrivenLink, type FamilyLink } from './links'
export { KnownRelease } from './releases'
export type { EntryWay } from './entry'
export type { Advisory, Question } from './updates'
export { kitKinds, type Isolation, type KitItem } from './bench'
export type { RetryPolicy, StageName } from './run'
export { postUpdateKinds, type PostUpdateTask } from './post-update-tasks'
