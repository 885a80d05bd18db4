export * from './profile'
export * from './read-family'
export * from './template'
