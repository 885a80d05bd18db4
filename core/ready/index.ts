export * from './gate'
export * from './supply-floor'
export * from './port-chosen'
export * from './link-driven'
