export * from './usb-port'
export * from './descriptors'
export * from './web-usb'
