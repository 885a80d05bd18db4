export * from './question'
export * from './judge-fit'
export { fitRules } from './rules'
export * from './judge-image'
