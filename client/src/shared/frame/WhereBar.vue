<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../api/cache'
import { count } from '../numbers'
import { useStore } from '../store'
import { stepTo } from '../ui/records'

/** The path of places to where one is, each of which opens what is beside it and in it; and what wants somebody. */
const store = useStore()
const route = useRoute()
const router = useRouter()
const open = ref<string | null>(null)
const here = computed(() => {
  const p = route.params as Record<string, string>
  return p.place || p.floor || p.controller || p.sequence || p.schedule || store.project?.siteId || ''
})
const { value: crumbs } = useShown('/places/{id}/crumbs', () => (here.value ? { path: { id: here.value } } : null), [
  'place',
  'equipment',
  'controller',
  'sequence',
  'schedule',
])
const many = (n: number, what: string) => `${count(n)} ${what}${n === 1 ? '' : 's'}`
const signs = computed(() =>
  [
    { n: store.alarms.filter((a) => a.stillSo).length, tone: 'crimson', to: '/supervise/alarms', says: (n: number) => `▲ ${many(n, 'alarm')}` },
    { n: store.clock?.silent ?? 0, tone: 'crimson', to: '/commission/contact', says: (n: number) => `◇ ${n} silent`, desk: true },
    { n: store.held.filter((h) => !h.isInput).length, tone: 'plum', to: '/operate/held', says: (n: number) => `◐ ${n} held by hand` },
    { n: store.held.filter((h) => h.isInput).length, tone: 'plum', to: '/operate/held', says: (n: number) => `▣ ${n} simulated` },
    { n: store.project?.findings ?? 0, tone: 'amber', to: '/findings', says: (n: number) => `▲ ${many(n, 'finding')}`, desk: true },
  ].filter((s) => s.n),
)
/** Goes to a place in the phase that is open, where that phase has a page for it. */
function go(place: { id: string; kind: string }) {
  open.value = null
  const phase = route.path.split('/')[1]
  if ((phase === 'operate' || phase === 'draw') && place.kind === 'floor') void router.push(`/${phase}/${place.id}`)
  else void router.push(`/plan/${place.id}`)
}
function columnKeys(e: KeyboardEvent) {
  const items = [...(e.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('button')]
  const at = items.indexOf(document.activeElement as HTMLElement)
  const next = stepTo(e.key, at, items.length)
  if (next === at) return
  items[next]?.focus()
  e.preventDefault()
}
</script>

<template>
  <div class="where">
    <nav aria-label="Where">
      <template v-for="(crumb, i) in crumbs ?? []" :key="crumb.id">
        <span v-if="i" class="dim">›</span>
        <NPopover
          :show="open === crumb.id"
          trigger="click"
          placement="bottom-start"
          :show-arrow="false"
          @update:show="(s: boolean) => (open = s ? crumb.id : open === crumb.id ? null : open)"
        >
          <template #trigger>
            <NButton quaternary size="small" :class="['crumb', { on: i === (crumbs?.length ?? 0) - 1 }]" :aria-expanded="open === crumb.id"
              >{{ crumb.name }} <small aria-hidden="true">&nbsp;▾</small></NButton
            >
          </template>
          <div class="columns" @keydown="columnKeys" @keydown.esc="open = null">
            <div v-if="crumb.siblings.length">
              <h3>Beside it</h3>
              <NButton v-for="s in crumb.siblings" :key="s.id" quaternary size="small" :type="s.id === crumb.id ? 'info' : 'default'" @click="go(s)">{{
                s.name
              }}</NButton>
            </div>
            <div>
              <h3>In it</h3>
              <NButton v-for="c in crumb.children" :key="c.id" quaternary size="small" @click="go(c)">{{ c.name }}</NButton>
              <p v-if="!crumb.children.length" class="dim">nothing yet</p>
              <NButton quaternary size="small" type="info" @click="go(crumb)">Open {{ crumb.name }}</NButton>
            </div>
          </div>
        </NPopover>
      </template>
      <span v-if="crumbs && !crumbs.length" class="dim">No site yet</span>
    </nav>
    <span class="space" />
    <RouterLink v-for="s in signs" :key="s.to" :to="s.to" class="sign" :class="{ desk: s.desk }"
      ><FactTag :tone="s.tone as never">{{ s.says(s.n) }}</FactTag></RouterLink
    >
    <RouterLink v-if="store.project" class="sign desk" to="/history"
      ><FactTag>Revision {{ count(store.project.revision) }} · saved</FactTag></RouterLink
    >
  </div>
</template>

<style scoped>
.where {
  background: var(--sheet);
  border-bottom: 1px solid var(--rule);
  display: flex;
  align-items: center;
  gap: 8px;
  padding: 4px 16px;
  min-height: 38px;
  flex: none;
}
nav {
  display: flex;
  align-items: center;
  gap: 2px;
  flex-wrap: wrap;
  min-width: 0;
}
.crumb.on {
  background: var(--plum-soft);
  --n-text-color: var(--plum) !important;
  --n-text-color-hover: var(--plum) !important;
}
.sign {
  text-decoration: none;
  white-space: nowrap;
}
.sign :deep(.n-tag) {
  cursor: pointer;
}
.columns {
  display: flex;
  gap: 18px;
  max-height: 60vh;
  overflow: auto;
}
.columns > div {
  display: grid;
  align-content: start;
}
.columns :deep(.n-button) {
  justify-content: flex-start;
}
@media (max-width: 700px) {
  nav > .dim,
  .crumb:not(.on) {
    display: none;
  }
}
</style>
