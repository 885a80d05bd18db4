export * from './frame'
export * from './wake-up'
export * from './client'
