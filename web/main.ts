import 'primeicons/primeicons.css'
import './look/base.css'
import { createPinia } from 'pinia'
import PrimeVue from 'primevue/config'
import { createApp } from 'vue'
import App from './App.vue'
import { preset } from './look/preset'
import { router } from './router'

const nonce = document.querySelector('meta[name="csp-nonce"]')?.getAttribute('content') ?? undefined

createApp(App)
  .use(createPinia())
  .use(router)
  .use(PrimeVue, { theme: { preset, options: { darkModeSelector: '.dark' } }, csp: { nonce } })
  .mount('#app')
