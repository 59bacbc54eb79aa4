<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import ExchangeBox from './ExchangeBox.vue'

/** One device of a panel: what it is, where it stands, and moving it, putting another in its place, taking it out. */
const props = defineProps<{ panel: Schemas['Panel']; device: Schemas['RailDevice']; rail: Schemas['Rail']; may: boolean }>()
const store = useStore()
const attempt = useDo()
const exchanging = ref(false)
const removing = ref(false)
const model = computed(() => props.device.model)
const name = computed(() => props.device.module?.name ?? props.panel.controller.name)
const at = computed(() => props.rail.devices.indexOf(props.device))
/** The module before which it stands after a step, of its own rail. */
const left = computed(() => props.rail.devices[at.value - 1]?.module?.id)
const right = computed(() => (props.rail.devices[at.value + 1] ? (props.rail.devices[at.value + 2]?.module?.id ?? null) : undefined))
const move = (rail: number, before: string | null) =>
  attempt(() => post('/modules/{id}/move', { path: { id: props.device.module!.id }, body: { rail, before } as never }))
const currents = (list: readonly Schemas['SupplyCurrent'][] = []) => list.map((c) => `${c.milliamps} mA of ${c.supply}`).join(', ') || 'nothing'
</script>

<template>
  <div class="sheet pane">
    <span class="dim">{{ device.module ? `Module at address ${device.module.address}, rail ${rail.number}` : 'The controller' }}</span>
    <h2>{{ name }}</h2>
    <dl v-if="model">
      <dt>Model</dt>
      <dd>{{ model.name }}</dd>
      <dt>Terminals</dt>
      <dd>{{ model.terminalsInWords || 'none' }}</dd>
      <dt>Width</dt>
      <dd>{{ model.widthMillimetres }} mm</dd>
      <dt>Draws</dt>
      <dd>{{ currents(model.draws) }}</dd>
      <dt>Gives</dt>
      <dd>{{ currents(model.gives) }}</dd>
      <template v-if="!device.module">
        <dt>Takes</dt>
        <dd>{{ model.mostModules ? `${model.mostModules} modules` : 'no modules' }}; {{ count(model.values) }} values in memory</dd>
      </template>
      <dt>Price</dt>
      <dd>{{ model.price }} EUR</dd>
    </dl>
    <template v-if="may">
      <p v-if="device.module" class="acts">
        <NButton size="small" :disabled="!left" aria-label="Move left" @click="move(rail.number, left ?? null)">◀ Left</NButton
        ><NButton size="small" :disabled="right === undefined" aria-label="Move right" @click="move(rail.number, right ?? null)">Right ▶</NButton
        ><template v-for="r in panel.enclosure.rails" :key="r.number"
          ><NButton v-if="r.number !== rail.number" size="small" @click="move(r.number, null)">To rail {{ r.number }}</NButton></template
        >
      </p>
      <p class="acts">
        <NButton size="small" data-act="exchange" @click="exchanging = true">Replace by…</NButton
        ><NButton v-if="device.module" size="small" data-act="remove-module" @click="removing = true">Remove…</NButton
        ><NButton size="small" @click="store.selected = device.module?.id ?? panel.controller.id">Dossier</NButton>
      </p>
    </template>
    <ExchangeBox v-if="exchanging" :panel="panel" :device="device" @close="exchanging = false" />
    <ConfirmRemoval v-if="removing" :ids="[device.module!.id]" @close="removing = false" />
  </div>
</template>

<style scoped>
.pane {
  display: grid;
  gap: 6px;
}
</style>
