<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { useStore } from '../shared/store'
import BusObjects from './BusObjects.vue'
import BusParameters from './BusParameters.vue'
import BusStory from './BusStory.vue'
import ChannelList from './ChannelList.vue'

/** A bus device: its channels, and of the chosen one the parameters, the objects, and what it will do. */
const props = defineProps<{ device: string }>()
const store = useStore()
const route = useRoute()
const router = useRouter()
const {
  value: view,
  problem,
  reload,
} = useShown('/bus/devices/{id}', () => ({ path: { id: props.device } }), ['busDevice', 'busLine', 'place', 'deviceDescription'])
type Lens = 'parameters' | 'objects' | 'story'
const lens = computed<Lens>({
  get: () => (route.query.lens as Lens) ?? 'parameters',
  set: (v) => void router.replace({ query: { ...route.query, lens: v } }),
})
const channel = ref<string | null>(null)
/** A parameter that somebody was led to. */
const led = ref('')
watch(
  view,
  (v) => {
    if (v && !v.channels.some((c) => c.key === channel.value)) channel.value = v.channels.find((c) => c.key)?.key ?? v.channels[0]?.key ?? ''
  },
  { immediate: true },
)
function lead(path: string) {
  channel.value = path.includes('.') ? path.split('.')[0]! : ''
  led.value = path
  lens.value = 'parameters'
}
</script>

<template>
  <PageShell :title="view?.device.name ?? 'Bus device'" :problem="problem" @again="reload">
    <template v-if="view" #facts>
      <FactTag mono>{{ view.address ?? '○ no address' }}</FactTag><FactTag>{{ view.described }}</FactTag
      ><FactTag v-if="view.differing">{{ view.differing }} set</FactTag><FactTag v-if="view.idle" tone="amber">▲ {{ view.idle }} not in force</FactTag>
    </template>
    <template #actions
      ><ChooseOne
        v-model="lens"
        label="What is shown"
        :options="[
          { value: 'parameters', label: 'Parameters' },
          { value: 'objects', label: 'Objects' },
          { value: 'story', label: 'What it will do' },
        ]"
      /><NButton v-if="view" @click="store.selected = view.device.id">Dossier</NButton></template
    >
    <div v-if="view" class="halves" :class="{ whole: lens === 'story' }">
      <ChannelList v-if="lens !== 'story'" :model-value="channel ?? ''" :view="view" @update:model-value="(c) => (channel = c)" />
      <BusParameters v-if="lens === 'parameters'" v-model:led="led" :view="view" :channel="channel ?? ''" />
      <BusObjects v-else-if="lens === 'objects'" :view="view" :channel="channel ?? ''" />
      <BusStory v-else :view="view" @lead="lead" />
    </div>
    <NSkeleton v-else text :repeat="6" />
  </PageShell>
</template>

<style scoped>
.halves {
  display: grid;
  grid-template-columns: 236px minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.halves.whole {
  grid-template-columns: minmax(0, 1fr);
}
@media (max-width: 700px) {
  .halves {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
