export * from './came-to'
export * from './deeds'
export * from './releases'
export * from './way-left'
