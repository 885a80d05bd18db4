export * from './spi-port'
export * from './sequences'
export * from './adapter-port'
export * from './spi-time'
