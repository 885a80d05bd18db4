export * from './extremes'
export * from './bins'
export * from './interpolate'
export * from './align'
