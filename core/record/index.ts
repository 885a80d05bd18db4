export * from './strip'
export * from './logbook'
