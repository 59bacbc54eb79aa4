<script setup lang="ts">
import { count } from '../numbers'
import { computed, ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { get, type Schemas } from '../api/http'
import { useLoaded, useStore } from '../store'

const store = useStore()
const route = useRoute()
const router = useRouter()
const open = ref<string | null>(null)
const here = computed(() => {
  const p = route.params as Record<string, string>
  return p.place || p.floor || p.controller || p.sequence || p.schedule || store.project?.siteId || ''
})
const { value: crumbs } = useLoaded<Schemas['Crumb'][]>(
  () => (here.value ? get(`/places/${here.value}/crumbs`) : null),
  () => here.value,
  ['place', 'equipment', 'controller', 'sequence', 'schedule'],
)
const aheadCount = computed(() => store.alarms.filter((a) => a.stillSo).length)

/** Goes to a place in the phase that is open, where that phase has a page for it. */
function go(place: { id: string; kind: string }) {
  open.value = null
  const phase = route.path.split('/')[1]
  if ((phase === 'operate' || phase === 'draw') && place.kind === 'floor') void router.push(`/${phase}/${place.id}`)
  else void router.push(`/plan/${place.id}`)
}
function columnKeys(e: KeyboardEvent) {
  if (e.key === 'Escape') open.value = null
  const items = [...document.querySelectorAll<HTMLElement>('.columns button')]
  const at = items.indexOf(document.activeElement as HTMLElement)
  if (e.key === 'ArrowDown') items[Math.min(items.length - 1, at + 1)]?.focus()
  else if (e.key === 'ArrowUp') items[Math.max(0, at - 1)]?.focus()
  else return
  e.preventDefault()
}
</script>

<template>
  <div class="where" @keydown="columnKeys">
    <nav aria-label="Where">
      <template v-for="(crumb, i) in crumbs ?? []" :key="crumb.id">
        <span v-if="i" class="dim">›</span>
        <button
          :class="['crumb', { on: i === (crumbs?.length ?? 0) - 1 }]"
          :aria-expanded="open === crumb.id"
          @click="open = open === crumb.id ? null : crumb.id"
        >
          {{ crumb.name }} <small>▾</small>
        </button>
        <div v-if="open === crumb.id" class="columns sheet">
          <div v-if="crumb.siblings.length">
            <h3>Beside it</h3>
            <button v-for="s in crumb.siblings" :key="s.id" :class="{ on: s.id === crumb.id }" @click="go(s)">{{ s.name }}</button>
          </div>
          <div>
            <h3>In it</h3>
            <button v-for="c in crumb.children" :key="c.id" @click="go(c)">{{ c.name }}</button>
            <p v-if="!crumb.children.length" class="dim">nothing yet</p>
            <button class="dim" @click="go(crumb)">Open {{ crumb.name }}</button>
          </div>
        </div>
      </template>
      <span v-if="!crumbs?.length" class="dim">No site yet</span>
    </nav>
    <span class="space" />
    <RouterLink v-if="aheadCount" class="pill crimson" to="/supervise/alarms">▲ {{ aheadCount }} alarm{{ aheadCount === 1 ? '' : 's' }}</RouterLink>
    <RouterLink v-if="store.held.length" class="pill plum" to="/operate/held">◐ {{ store.held.length }} held by hand</RouterLink>
    <RouterLink v-if="store.project?.findings" class="pill amber desk" to="/findings"
      >▲ {{ count(store.project.findings) }} finding{{ store.project.findings === 1 ? '' : 's' }}</RouterLink
    >
    <RouterLink v-if="store.project" class="pill desk" to="/history">Revision {{ count(store.project.revision) }} · saved</RouterLink>
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
  gap: 4px;
  position: relative;
  flex-wrap: wrap;
}
.crumb {
  border: 0;
  background: none;
  padding: 3px 8px;
  border-radius: 6px;
  cursor: pointer;
  white-space: nowrap;
}
.crumb.on {
  background: var(--plum-soft);
  color: var(--plum);
  font-weight: 600;
}
.columns {
  position: absolute;
  top: 32px;
  left: 0;
  z-index: 40;
  display: flex;
  gap: 18px;
  box-shadow: 0 4px 14px #0002;
  max-height: 60vh;
  overflow: auto;
}
.columns button {
  display: block;
  border: 0;
  background: none;
  padding: 3px 6px;
  cursor: pointer;
  width: 100%;
  text-align: left;
  border-radius: 5px;
  white-space: nowrap;
}
.columns button:hover,
.columns button.on {
  background: var(--plum-soft);
}
@media (max-width: 700px) {
  nav > .dim,
  .crumb:not(.on) {
    display: none;
  }
}
</style>
