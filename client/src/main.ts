import '@fontsource-variable/atkinson-hyperlegible-next'
import '@fontsource-variable/fraunces'
import '@fontsource-variable/jetbrains-mono'
import './shared/tokens.css'
import { createPinia } from 'pinia'
import { createApp } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import App from './App.vue'
import { base } from './shared/api/http'

const router = createRouter({
  history: createWebHistory(base),
  routes: [
    { path: '/', component: () => import('./plan/HomePage.vue') },
    { path: '/plan/:place?', component: () => import('./plan/PlanPage.vue'), props: true },
    { path: '/list/import', component: () => import('./plan/ImportPage.vue') },
    { path: '/list/summary', component: () => import('./plan/IoSummaryPage.vue') },
    { path: '/library/:library?/:template?', component: () => import('./plan/LibraryPage.vue'), props: true },
    { path: '/tags', component: () => import('./plan/TagsPage.vue') },
    { path: '/names', component: () => import('./plan/NamesPage.vue') },
    { path: '/findings', component: () => import('./plan/FindingsPage.vue') },
    { path: '/projects', component: () => import('./plan/ProjectsPage.vue') },
    { path: '/history', component: () => import('./plan/HistoryPage.vue') },
    { path: '/wire', component: () => import('./wire/ControllersPage.vue') },
    { path: '/wire/:controller', component: () => import('./wire/PanelPage.vue'), props: true },
    { path: '/program', component: () => import('./program/SequencesPage.vue') },
    { path: '/program/help', component: () => import('./program/BlockHelpPage.vue') },
    { path: '/program/:sequence', component: () => import('./program/SequencePage.vue'), props: true },
    { path: '/supervise', component: () => import('./supervise/SchedulesPage.vue') },
    { path: '/supervise/schedules/:schedule', component: () => import('./supervise/SchedulePage.vue'), props: true },
    { path: '/supervise/trends', component: () => import('./supervise/TrendsPage.vue') },
    { path: '/supervise/alarms', component: () => import('./supervise/AlarmsPage.vue') },
    { path: '/draw/:floor?', component: () => import('./draw/OutlinesPage.vue'), props: true },
    { path: '/commission', component: () => import('./commission/CommissionPage.vue') },
    { path: '/commission/build', component: () => import('./commission/BuildPage.vue') },
    { path: '/commission/:controller', component: () => import('./commission/SendPage.vue'), props: true },
    { path: '/operate/held', component: () => import('./operate/HeldPage.vue') },
    { path: '/operate/trail', component: () => import('./operate/TrailPage.vue') },
    { path: '/operate/:floor?', component: () => import('./operate/FloorPage.vue'), props: true },
    { path: '/accounts', component: () => import('./account/AccountsPage.vue') },
    { path: '/:rest(.*)', component: () => import('./plan/HomePage.vue') },
  ],
})

createApp(App).use(createPinia()).use(router).mount('#app')
