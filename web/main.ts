import '@fontsource-variable/atkinson-hyperlegible-mono/wght.css'
import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { namedColumns } from './parts/named-columns'
import { router } from './router'
import './theme/tokens.css'
import './theme/base.css'

createApp(App).use(createPinia()).use(router).directive('columns', namedColumns).mount('#app')
