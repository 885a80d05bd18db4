export * from './channel-source'
export * from './plan-recording'
export * from './record'
