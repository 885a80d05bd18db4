export * from './adapter'
export * from './judge-wiring'
export { adapterRules, joinRules } from './rules'
export { pinText, isSignal } from './question'
