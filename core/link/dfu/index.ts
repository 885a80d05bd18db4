export * from './states'
export * from './messages'
export * from './loader'
