export * from './usb-port'
export * from './descriptors'
export * from './web-usb'
export * from './wire-time'
