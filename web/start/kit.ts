/** The kit's part of the start: what every screen draws with. */
export { NButton, NConfigProvider } from 'naive-ui'
