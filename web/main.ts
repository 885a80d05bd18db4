import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import './theme/tokens.css'
import './theme/base.css'
import 'virtual:uno.css'
import { holdKitRing } from './theme/waiting-ring'

/**
 * The program starts in turns, each short: what is pressed meanwhile is heard between two of them. All its files are
 * asked for at once by the page (vite.config.ts), so that a turn waits for no file.
 */
const turn = () => new Promise((resolve) => setTimeout(resolve))

holdKitRing(document)
const { createApp } = await import('vue')
await turn()
await import('./start/themes')
await turn()
await import('./start/kit')
await turn()
await import('./start/figures')
await turn()
await import('./start/shared')
await turn()
await import('./parts/written')
await turn()
const { default: App } = await import('./App.vue')
await turn()
const { namedColumns, pinia, router, useLook } = await import('./start/program')
await turn()
useLook(pinia)
await turn()
const app = createApp(App).use(pinia).use(router).directive('columns', namedColumns)
await turn()
app.mount('#app')
