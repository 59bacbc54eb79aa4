<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Gives devices addresses on a line, one after the other; what they would be is shown first. */
const props = defineProps<{ devices: Schemas['BusDeviceLine'][]; lines: Schemas['LineLine'][] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const line = ref(props.devices[0]?.lineId ?? props.lines[0]?.line.id ?? '')
const from = ref<number | null>(1)
const shown = ref<Schemas['AddressProposal'][]>([])
const trouble = ref('')
const body = computed(() => ({ ids: props.devices.map((d) => d.id), lineId: line.value, from: from.value }))
watch(
  body,
  async (b) => {
    trouble.value = ''
    if (!b.lineId) return
    try {
      shown.value = await post('/bus/addresses', { body: { ...b, apply: false } })
    } catch (e) {
      shown.value = []
      trouble.value = (e as Error).message
    }
  },
  { immediate: true },
)
async function give() {
  if (await attempt(() => post('/bus/addresses', { body: { ...body.value, apply: true } }), 'Addresses given')) emit('close')
}
</script>

<template>
  <ModalBox label="Give addresses" @close="emit('close')">
    <form @submit.prevent="give">
      <h2>Give addresses</h2>
      <label class="row"
        ><span>On line</span
        ><PickOne id="addr-line" v-model="line" :options="lines.map((l) => ({ value: l.line.id, label: `${l.written} ${l.line.name}` }))" aria-label="On line"
      /></label>
      <label class="row"><span>From number</span><NumberBox id="addr-from" v-model="from" /></label>
      <p v-if="trouble" class="wrong">{{ trouble }}</p>
      <NTable v-if="shown.length" size="small" :bordered="false" class="close">
        <thead>
          <tr>
            <th>Device</th>
            <th>Was</th>
            <th>Becomes</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in shown" :key="p.id">
            <td>{{ p.name }}</td>
            <td class="mono">{{ p.was ?? '–' }}</td>
            <td class="mono">
              <b>{{ p.now }}</b>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p class="acts">
        <NButton id="addr-do" type="primary" attr-type="submit" :disabled="!shown.length">Give them</NButton><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>
