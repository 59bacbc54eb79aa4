<script setup lang="ts">
import { useEventListener, useMediaQuery } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { address, firstOf, pages, phases, type Page } from '../../pages'
import DossierPanel from '../dossier/DossierPanel.vue'
import { useStore } from '../store'
import { useUndo } from '../useUndo'
import ConflictBox from './ConflictBox.vue'
import FindOrDo from './FindOrDo.vue'
import KeysBox from './KeysBox.vue'
import SiteBar from './SiteBar.vue'
import UserMenu from './UserMenu.vue'
import WhereBar from './WhereBar.vue'

const store = useStore()
const route = useRoute()
const router = useRouter()
const undo = useUndo()
const finding = ref(false)
const asking = ref(false)
const isPhone = useMediaQuery('(max-width: 700px)')
const page = computed(() => route.meta.page as Page | undefined)
const allTheSame = ref('')
/** What the bar offers: on a phone the phases that have a page for it, and the one that is shown. */
const offered = computed(() => phases.filter((phase) => !isPhone.value || page.value?.phase === phase || pages.some((p) => p.phone && p.phase === phase)))
const tooSmall = computed(() => isPhone.value && page.value && !page.value.phone && allTheSame.value !== page.value.path)
watch(
  () => route.path,
  () => (store.selected = null),
)
/** g, then the letter of a page. */
let going = 0
const alone = (e: KeyboardEvent) => !e.ctrlKey && !e.metaKey && !e.altKey
const isTyping = (e: KeyboardEvent) => !!(e.target as HTMLElement).closest?.('input, textarea, select, [role=combobox], [contenteditable]')
useEventListener('keydown', (e: KeyboardEvent) => {
  const key = e.key.toLowerCase()
  const meta = e.ctrlKey || e.metaKey
  if (meta && key === 'k') finding.value = true
  else if (isTyping(e)) return
  else if (meta && key === 'z') void undo(e.shiftKey)
  else if (meta && key === 'y') void undo(true)
  else if (e.key === '?') asking.value = true
  else if (alone(e) && key === 'g') return void (going = Date.now())
  else if (alone(e) && Date.now() - going < 1500) {
    going = 0
    const to = pages.find((p) => p.go === key)
    if (!to) return
    void router.push(to.phase && to.phase === 'Operate' ? '/operate' : address(to))
  } else {
    if (e.key === 'Escape' && !finding.value) store.selected = null
    return
  }
  e.preventDefault()
})
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
          v-for="phase in offered"
          :key="phase"
          :to="firstOf(phase)"
          :class="{ on: page?.phase === phase }"
          :aria-current="page?.phase === phase ? 'page' : undefined"
          >{{ phase }}</RouterLink
        >
      </nav>
      <span class="space" />
      <NButton class="find desk" :bordered="false" @click="finding = true">Find or do… <kbd>Ctrl K</kbd></NButton>
      <UserMenu @keys="asking = true" />
    </header>
    <div v-if="store.working" class="working" role="progressbar" aria-label="Working" />
    <WhereBar />
    <p v-if="store.lost && store.project" class="lost" role="status">◇ Not connected to the server; trying again. Values shown are the last ones known.</p>
    <JobProgress v-for="job in interrupted" :key="job.id" :job="job" />
    <p v-if="store.clock?.trouble" class="lost" role="alert">▲ {{ store.clock.trouble }}</p>
    <div class="middle">
      <main>
        <EmptyState v-if="tooSmall" :title="`${page!.title} wants a larger screen`" style="margin: 12px">
          On a phone there are the floors and alarms, what is held by hand, and the panels.
          <template #next
            ><LinkButton to="/operate" main>Floors</LinkButton><LinkButton to="/wire">Panels</LinkButton
            ><NButton @click="allTheSame = page!.path">Show it all the same</NButton></template
          >
        </EmptyState>
        <RouterView v-else />
      </main>
      <DossierPanel v-if="store.selected" :id="store.selected" />
    </div>
    <SiteBar v-if="store.may('technician')" class="desk" />
    <ConflictBox v-if="store.conflicts.length" />
    <FindOrDo v-if="finding" @close="finding = false" />
    <KeysBox v-if="asking" @close="asking = false" />
  </div>
</template>

<style scoped>
.frame {
  height: 100%;
  /* Larger letters leave less room as a smaller window does: what gives way asks for this width. */
  container: frame / inline-size;
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
  --n-color: var(--bar-2) !important;
  --n-color-hover: var(--bar-2) !important;
  --n-color-focus: var(--bar-2) !important;
  --n-text-color: #d9cfc2 !important;
  --n-text-color-hover: #fff !important;
  --n-text-color-focus: #fff !important;
}
.find kbd {
  border-color: #7a6d63;
  margin-left: 18px;
}
.working {
  position: fixed;
  top: 44px;
  left: 0;
  height: 3px;
  width: 30%;
  background: var(--russet);
  /* What is done at once shows nothing. */
  animation: working 1.1s linear 0.12s infinite backwards;
  z-index: 5;
}
@keyframes working {
  from {
    transform: translateX(-100%);
  }
  to {
    transform: translateX(340%);
  }
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
@container frame (max-width: 1150px) {
  header {
    gap: 8px;
  }
  .project,
  .find kbd {
    display: none;
  }
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
