import { PiniaColada } from '@pinia/colada'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import App from './App.vue'
import { KEY_ROUTER } from './composables/useKeys'
import { KeyRouter } from './lib/keyRouter'
import { recall } from './lib/screen'
import { bringDesk, router } from './router'
import './style.css'

recall()
// The desk's code comes while it is found out who is there.
if (/^\/(w\/\d+\/desk|$)/.test(window.location.pathname)) bringDesk().catch(() => {})
createApp(App).provide(KEY_ROUTER, new KeyRouter(window)).use(createPinia()).use(PiniaColada).use(router).mount('#app')
