export { createApp, version, type Api, type Services } from './app'
export { startServer } from './start'
