export * from './header'
export * from './send'
export * from './receive'
