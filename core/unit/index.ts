export * from './snapshot'
export * from './unit'
export * from './version'
