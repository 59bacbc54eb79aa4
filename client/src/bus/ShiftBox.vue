<script setup lang="ts">
import { ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useDo } from '../shared/useDo'

/** Moves a set of group addresses by a pattern, after all that follows was shown. */
const props = defineProps<{ addresses: Schemas['AddressLine'][] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const pattern = ref('*/*/+16')
const view = ref<Schemas['ShiftView'] | null>(null)
const trouble = ref('')
const shift = (apply: boolean) => post('/bus/groups/shift', { body: { ids: props.addresses.map((a) => a.id), pattern: pattern.value, apply } })
watch(
  pattern,
  async () => {
    try {
      ;[view.value, trouble.value] = [await shift(false), '']
    } catch (e) {
      ;[view.value, trouble.value] = [null, (e as Error).message]
    }
  },
  { immediate: true },
)
async function move() {
  if (await attempt(() => shift(true), 'Moved')) emit('close')
}
</script>

<template>
  <ModalBox label="Move group addresses" @close="emit('close')">
    <form @submit.prevent="move">
      <h2>Move {{ many(addresses.length, 'group') }}</h2>
      <label class="row"><span>To</span><TextBox id="shift-pattern" v-model="pattern" mono required placeholder="3/*/+16" /></label>
      <p class="dim">For each of the three levels: a star stays, a number is set, +16 or -2 moves.</p>
      <p v-if="trouble" class="wrong">{{ trouble }}</p>
      <template v-if="view">
        <NTable size="small" :bordered="false" class="close">
          <thead>
            <tr>
              <th>Group</th>
              <th>Was</th>
              <th>Becomes</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="l in view.lines.slice(0, 12)" :key="l.id">
              <td>{{ l.name }}</td>
              <td class="mono">{{ l.was }}</td>
              <td>
                <b class="mono">{{ l.now ?? '–' }}</b> <span v-if="l.trouble" class="wrong">✕ {{ l.trouble }}</span>
              </td>
            </tr>
          </tbody>
        </NTable>
        <p v-if="view.lines.length > 12" class="dim">
          and {{ count(view.lines.length - 12) }} more<template v-if="view.troubles">; {{ view.troubles }} cannot go there</template>
        </p>
        <p class="dim">
          To be written afterwards: {{ many(view.devices.length, 'bus device')
          }}<template v-if="view.devices.length"> ({{ view.devices.slice(0, 6).join(', ') }}{{ view.devices.length > 6 ? ' …' : '' }})</template
          ><template v-if="view.controllers.length">, and {{ view.controllers.join(', ') }}</template
          >, and the couplers between.
        </p>
      </template>
      <p class="acts">
        <NButton id="shift-do" type="primary" attr-type="submit" :disabled="!view || view.troubles > 0">Move them</NButton
        ><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>
