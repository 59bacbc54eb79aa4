<script setup lang="ts">
import { useEventListener, useLocalStorage } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { post } from '../api/http'
import { useStore } from '../store'
import { useDo } from '../useDo'
import JobBar from '../JobBar.vue'
import ConflictBox from './ConflictBox.vue'
import DossierPanel from './DossierPanel.vue'
import FindOrDo from './FindOrDo.vue'
import SiteBar from './SiteBar.vue'
import WhereBar from './WhereBar.vue'

const store = useStore()
const route = useRoute()
const attempt = useDo()
const finding = ref(false)
const menu = ref(false)
const theme = useLocalStorage('theme', 'light')
const phases = [
  ['Plan', '/plan'],
  ['Wire', '/wire'],
  ['Program', '/program'],
  ['Supervise', '/supervise'],
  ['Draw', '/draw'],
  ['Commission', '/commission'],
  ['Operate', '/operate'],
] as const
const inPlan = ['/list', '/library', '/tags', '/names', '/findings', '/history']
const current = computed(() => phases.find(([, path]) => route.path.startsWith(path))?.[0] ?? (inPlan.some((p) => route.path.startsWith(p)) ? 'Plan' : ''))
watch(
  () => route.path,
  () => {
    store.selected = null
    menu.value = false
  },
)

async function undo(redo: boolean) {
  const label = redo ? store.project?.redo : store.project?.undo
  await attempt(() => post(redo ? '/redo' : '/undo'), label ? `${redo ? 'Did again' : 'Undid'}: ${label}` : undefined)
}
useEventListener('keydown', (e: KeyboardEvent) => {
  const typing = (e.target as HTMLElement).closest?.('input, textarea, select')
  if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
    e.preventDefault()
    finding.value = true
  } else if ((e.ctrlKey || e.metaKey) && !typing && e.key.toLowerCase() === 'z') {
    e.preventDefault()
    void undo(e.shiftKey)
  } else if ((e.ctrlKey || e.metaKey) && !typing && e.key.toLowerCase() === 'y') {
    e.preventDefault()
    void undo(true)
  } else if (e.key === 'Escape' && !typing && !finding.value) store.selected = null
})
async function leave() {
  await attempt(() => post('/sign-out'))
  await store.stop()
}
/** Work that the end of the program interrupted, until it is done or dropped; once resumed here it stays to be seen. */
const resumed = new Set<string>()
const interrupted = computed(() =>
  [...store.jobs.values()].filter((job) => {
    if (job.state === 'interrupted') resumed.add(job.id)
    return resumed.has(job.id) && job.state !== 'done'
  }),
)
</script>

<template>
  <div class="frame">
    <header>
      <RouterLink to="/" class="brand" aria-label="Lofty Wren, start"><img src="/wren.svg" alt="" width="26" /><span>Lofty Wren</span></RouterLink>
      <RouterLink to="/projects" class="project desk" title="All projects of this installation">{{ store.project?.name ?? 'New project' }}</RouterLink>
      <nav aria-label="Phases">
        <RouterLink
          v-for="[name, path] in phases"
          :key="name"
          :to="path"
          :class="{ on: current === name }"
          :aria-current="current === name ? 'page' : undefined"
          >{{ name }}</RouterLink
        >
      </nav>
      <span class="space" />
      <button class="find desk" @click="finding = true">Find or do… <kbd>Ctrl K</kbd></button>
      <button class="who" :aria-expanded="menu" :title="`Signed in as ${store.me?.name} (${store.me?.role})`" @click="menu = !menu">
        {{ store.me?.name?.slice(0, 2).toUpperCase() }}
      </button>
      <div v-if="menu" class="menu sheet" @click="menu = false">
        <p>
          <b>{{ store.me?.name }}</b> <span class="dim">{{ store.me?.role }}</span>
        </p>
        <button class="btn" :disabled="!store.project?.undo || !store.may('engineer')" :title="store.project?.undo ?? ''" @click="undo(false)">
          Undo <kbd>Ctrl Z</kbd>
        </button>
        <button class="btn" :disabled="!store.project?.redo || !store.may('engineer')" :title="store.project?.redo ?? ''" @click="undo(true)">
          Redo <kbd>Ctrl Y</kbd>
        </button>
        <RouterLink class="btn" to="/projects">Projects</RouterLink>
        <RouterLink class="btn" to="/history">Project history</RouterLink>
        <RouterLink class="btn" to="/operate/trail">Who did what on site</RouterLink>
        <RouterLink class="btn" to="/accounts">Accounts and password</RouterLink>
        <button class="btn" @click="theme = theme === 'dark' ? 'light' : 'dark'">{{ theme === 'dark' ? 'Light' : 'Dark' }} theme</button>
        <button class="btn" id="sign-out" @click="leave">Sign out</button>
      </div>
    </header>
    <WhereBar />
    <p v-if="!store.connected && store.project" class="lost" role="status">
      ◇ Not connected to the server; trying again. Values shown are the last ones known.
    </p>
    <JobBar v-for="job in interrupted" :key="job.id" :job="job" />
    <p v-if="store.clock?.trouble" class="lost" role="alert">▲ {{ store.clock.trouble }}</p>
    <div class="middle">
      <main><RouterView /></main>
      <DossierPanel v-if="store.selected" :id="store.selected" :key="store.selected" />
    </div>
    <SiteBar v-if="store.may('technician')" class="desk" />
    <ConflictBox v-if="store.conflicts.length" />
    <FindOrDo v-if="finding" @close="finding = false" @undo="undo(false)" @redo="undo(true)" />
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  display: flex;
  flex-direction: column;
}
header {
  background: var(--bar);
  color: var(--on-bar);
  display: flex;
  align-items: center;
  gap: 14px;
  height: 46px;
  padding: 0 16px;
  position: relative;
  flex: none;
}
.brand {
  display: flex;
  align-items: center;
  gap: 8px;
  color: var(--on-bar);
  text-decoration: none;
  font: 600 19px var(--serif);
  white-space: nowrap;
}
.project {
  border-left: 1px solid #5b514a;
  padding-left: 14px;
  font-size: 13px;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
  max-width: 170px;
  color: inherit;
  text-decoration: none;
}
nav {
  display: flex;
  height: 100%;
  overflow-x: auto;
}
nav a {
  color: #d9cfc2;
  text-decoration: none;
  padding: 0 10px;
  display: flex;
  align-items: center;
  border-bottom: 3px solid transparent;
  border-top: 3px solid transparent;
}
nav a.on {
  color: #fff;
  font-weight: 700;
  border-bottom-color: #e08a5c;
}
.find {
  background: var(--bar-2);
  border: 0;
  border-radius: 7px;
  color: #d9cfc2;
  padding: 5px 10px;
  cursor: pointer;
  white-space: nowrap;
}
.find kbd {
  border-color: #7a6d63;
  margin-left: 18px;
}
.who {
  width: 30px;
  height: 30px;
  border-radius: 50%;
  border: 0;
  background: #e08a5c;
  color: #2b2521;
  font-weight: 700;
  font-size: 12px;
  cursor: pointer;
  flex: none;
}
.menu {
  position: absolute;
  right: 12px;
  top: 44px;
  z-index: 50;
  display: grid;
  gap: 5px;
  width: 240px;
  color: var(--ink);
  box-shadow: 0 4px 14px #0002;
}
.lost {
  background: var(--amber-soft);
  color: var(--amber);
  padding: 4px 16px;
}
.middle {
  flex: 1;
  min-height: 0;
  display: flex;
}
main {
  flex: 1;
  min-width: 0;
  overflow: auto;
}
@media (max-width: 700px) {
  header {
    gap: 6px;
    padding: 0 8px;
  }
  .brand span {
    display: none;
  }
  nav a {
    padding: 0 8px;
    font-size: 13px;
  }
  nav a:last-child {
    order: -1;
  }
  .middle {
    flex-direction: column;
    overflow: auto;
  }
  main {
    overflow: visible;
    flex: none;
  }
}
</style>
