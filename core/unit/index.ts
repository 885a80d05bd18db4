export * from './snapshot'
export * from './unit'
export * from './last-said'
export * from './version'
