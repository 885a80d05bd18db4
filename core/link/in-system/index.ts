export * from './fuses'
export * from './programmer'
export * from './loader'
