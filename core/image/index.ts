export * from './memory-map'
export * from './intel-hex'
export * from './format'
export * from './identity'
