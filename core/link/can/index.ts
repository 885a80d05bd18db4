export * from './can-port'
export * from './frame-bits'
export * from './slcan'
