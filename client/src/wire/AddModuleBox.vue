<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

/** A module, a supply or a gateway to stand beside a controller, chosen by what it has. */
type Model = Schemas['HardwareModel']
const props = defineProps<{ panel: Schemas['Panel'] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const chosen = ref<string | null>(null)
const { value: catalogue } = useShown('/catalogue', () => ({}), ['hardwareModel'])
const models = computed(() => (catalogue.value ?? []).filter((m) => !m.runsPrograms))
const columns: Column<Model>[] = [
  { key: 'name', title: 'Model', sort: (m) => m.name },
  { key: 'terminals', title: 'Terminals', width: 130 },
  { key: 'width', title: 'Width, mm', width: 84, isNumber: true, sort: (m) => m.widthMillimetres },
  { key: 'current', title: 'Draws', width: 150 },
  { key: 'price', title: 'Price, EUR', width: 84, isNumber: true, sort: (m) => m.price },
]
async function add() {
  const body = { modelId: chosen.value! } as never
  if (await attempt(() => post('/controllers/{id}/modules', { path: { id: props.panel.controller.id }, body }), 'Added')) emit('close')
}
</script>

<template>
  <ModalBox v-if="catalogue" label="Add a module" wide @close="emit('close')">
    <h2>Add a module beside {{ panel.controller.name }}</h2>
    <p class="dim">It comes onto the first rail that has room, and can be moved from there.</p>
    <RecordTable
      v-model:chosen="chosen"
      :rows="models"
      :columns="columns"
      :id="(m) => m.id"
      noun="model"
      plural="models"
      :most="380"
      :words="(m) => `${m.name} ${m.id} ${m.kind} ${m.groups.flatMap((g) => g.signals).join(' ')}`"
    >
      <template #name="{ row: m }"
        ><b>{{ m.name }}</b
        ><br /><span class="dim tiny">{{ m.kind }} · {{ m.id }}</span></template
      >
      <template #terminals="{ row: m }">{{ m.terminalsInWords || '–' }}</template>
      <template #width="{ row: m }">{{ m.widthMillimetres }}</template>
      <template #current="{ row: m }">{{ m.draws.map((c) => `${c.milliamps} mA ${c.supply}`).join(', ') || '–' }}</template>
      <template #price="{ row: m }">{{ m.price }}</template>
    </RecordTable>
    <p class="acts"><NButton id="module-add" type="primary" :disabled="!chosen" @click="add">Add it</NButton><NButton @click="emit('close')">Leave</NButton></p>
  </ModalBox>
</template>
