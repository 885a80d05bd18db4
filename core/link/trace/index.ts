export * from './trace'
export * from './tap'
export * from './rows'
export * from './read-rows'
