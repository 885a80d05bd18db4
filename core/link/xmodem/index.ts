export * from './xmodem'
export * from './send'
export * from './receive'
export * from './wire-time'
