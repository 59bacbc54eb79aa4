<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** What answers on a network. One is picked; nothing is read from it or written to it before. */
const props = defineProps<{ model?: string; hostId?: string }>()
const picked = defineModel<Schemas['FoundDevice'] | null>({ default: null })
const found = ref<Schemas['FoundDevice'][] | null>(null)
const network = ref('')
const attempt = useDo()
const isBusy = ref(false)
async function look() {
  isBusy.value = true
  await attempt(async () => (found.value = await post('/contacts/discover', { body: { network: network.value } })))
  isBusy.value = false
  const mine = found.value?.filter((f) => f.hostId === props.hostId && f.isSure) ?? []
  if (props.hostId && !picked.value && mine.length === 1) picked.value = mine[0]!
}
void look()
defineExpose({ look })
</script>

<template>
  <div data-found class="found">
    <div class="head">
      <label class="where"
        >Network <TextBox id="network" v-model="network" size="small" placeholder="the virtual site, or 192.168.1.255:47900" @keydown.enter="look"
      /></label>
      <NButton id="look" size="small" :loading="isBusy" @click="look">Ask who is there</NButton>
    </div>
    <p v-if="found && !found.length" class="dim">
      Nobody answers. On the virtual site, hang a controller out of its box first; on a real network, see that it has its supply.
    </p>
    <NTable v-else-if="found" size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="f in found" :key="f.device.serial" :class="{ off: model && f.device.modelId !== model }">
          <td>
            <NRadio
              :checked="picked?.device.serial === f.device.serial"
              :value="f.device.serial"
              name="found"
              :aria-label="`Pick ${f.device.serial}`"
              :data-serial="f.device.serial"
              @update:checked="picked = f"
            />
          </td>
          <td class="mono">{{ f.device.serial }}</td>
          <td>
            {{ f.model }} <span class="dim mono">{{ f.device.host }}:{{ f.device.port }}</span>
          </td>
          <td>{{ f.device.isFactory ? '○ out of its box' : `● ${f.device.name || 'set up'}` }}</td>
          <td class="dim">{{ f.hostName ? (f.isSure ? `this is ${f.hostName}` : `may be ${f.hostName}`) : 'not in the project yet' }}</td>
        </tr>
      </tbody>
    </NTable>
  </div>
</template>

<style scoped>
.found {
  /* Room for those who will have answered in a moment. */
  min-height: 186px;
}
.where {
  display: flex;
  gap: 8px;
  align-items: center;
  flex: 1;
}
.off {
  opacity: 0.62;
}
</style>
