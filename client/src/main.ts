import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/fraunces'
import '@fontsource-variable/jetbrains-mono'
import './shared/ui/base.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import App from './App.vue'
import { routes } from './pages'
import { base } from './shared/api/http'

createApp(App)
  .use(createPinia())
  .use(createRouter({ history: createWebHistory(base), routes }))
  .mount('#app')
