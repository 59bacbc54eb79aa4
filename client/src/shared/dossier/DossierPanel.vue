<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core'
import { computed } from 'vue'
import { useShown } from '../api/cache'
import { useLive, useStore } from '../store'
import PointHead from './PointHead.vue'
import { sections } from './sections'

/** The side panel of one record: how it is and why, what uses it, what it is. */
const props = defineProps<{ id: string }>()
const store = useStore()
const { value: dossier, problem, reload } = useShown('/records/{id}', () => ({ path: { id: props.id } }), 'all')
const here = computed(() => {
  const d = dossier.value
  return d ? sections.filter((s) => (!s.of || s.of.includes(d.record.type as never)) && (!s.when || s.when(d)) && (!s.role || store.may(s.role))) : []
})
useLive(() => (dossier.value?.record.type === 'point' ? [`p:${props.id}`] : []))
/** What was folded or opened against what it is at first, remembered on this computer. */
const turned = useLocalStorage<string[]>('dossier', [])
const open = computed({
  get: () => here.value.filter((s) => !!s.isFolded === turned.value.includes(s.key)).map((s) => s.key),
  set: (keys) => {
    const others = turned.value.filter((k) => !here.value.some((s) => s.key === k))
    turned.value = [...others, ...here.value.filter((s) => keys.includes(s.key) === !!s.isFolded).map((s) => s.key)]
  },
})
</script>

<template>
  <aside class="dossier" aria-label="Dossier">
    <ErrorState v-if="problem" :problem="problem" @again="reload" />
    <template v-else-if="dossier">
      <div class="top">
        <span class="dim">{{ dossier.noun }} · {{ dossier.path }}</span
        ><span class="space" /><NButton size="small" quaternary aria-label="Close the dossier" @click="store.selected = null">✕</NButton>
      </div>
      <h2 class="name">{{ dossier.record.name }}</h2>
      <PointHead v-if="dossier.record.type === 'point'" :key="id" :dossier="dossier" :point="dossier.record" />
      <NCollapse v-model:expanded-names="open" arrow-placement="right">
        <NCollapseItem v-for="s in here" :key="s.key" :name="s.key" :title="s.title" display-directive="if" :data-section="s.key">
          <component :is="s.component" :key="id" :dossier="dossier" />
        </NCollapseItem>
      </NCollapse>
    </template>
    <NSkeleton v-else text :repeat="6" />
  </aside>
</template>

<style scoped>
.dossier {
  width: 330px;
  flex: none;
  background: var(--sheet);
  border-left: 1px solid var(--rule);
  padding: 12px 16px;
  overflow: auto;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
.top {
  display: flex;
  gap: 8px;
  align-items: flex-start;
}
.name {
  font-size: 19px;
}
@media (max-width: 700px) {
  .dossier {
    width: 100%;
    border-left: 0;
    border-top: 2px solid var(--plum);
    order: -1;
  }
}
</style>
