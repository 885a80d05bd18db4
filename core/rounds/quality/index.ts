export * from './question'
export * from './measures'
export * from './judge-log'
