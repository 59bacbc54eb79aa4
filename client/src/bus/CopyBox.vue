<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useDo } from '../shared/useDo'

/** Copies the parameters of a channel onto others alike, of this device or of others; what differs is shown first. */
const props = defineProps<{ view: Schemas['BusDeviceView']; channel: string }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const { value: devices } = useShown('/bus/devices', () => ({}), ['busDevice'])
const mine = computed(() => props.view.channels.find((c) => c.key === props.channel))
const alike = computed(() => props.view.channels.filter((c) => c.behaviour === mine.value?.behaviour && c.key))
const channels = ref<string[]>(props.channel ? alike.value.filter((c) => c.key !== props.channel).map((c) => c.key) : [])
const others = computed(() => (devices.value ?? []).filter((d) => d.descriptionId === props.view.device.descriptionId && d.id !== props.view.device.id))
const to = ref<string[]>([])
/** All of it, or what is set for one side (heating, cooling) onto the other. */
const side = ref('')
const sides = computed(() => mine.value?.sides ?? [])
watch(side, (s) => s && !channels.value.includes(props.channel) && (channels.value = [...channels.value, props.channel]))
const body = computed(() => ({ from: props.channel, toChannels: channels.value, toDevices: to.value, side: side.value || null }))
const differences = ref<Schemas['SettingDifference'][]>([])
watch(
  body,
  (b) =>
    void attempt(async () => (differences.value = await post('/bus/devices/{id}/copy', { path: { id: props.view.device.id }, body: { ...b, apply: false } }))),
  { immediate: true },
)
async function copy() {
  const done = await attempt(() => post('/bus/devices/{id}/copy', { path: { id: props.view.device.id }, body: { ...body.value, apply: true } }), 'Copied')
  if (done) emit('close')
}
</script>

<template>
  <ModalBox label="Copy parameters" wide @close="emit('close')">
    <form @submit.prevent="copy">
      <h2>Copy {{ channel ? `the parameters of ${mine?.name}` : 'all parameters' }}</h2>
      <ChooseOne
        v-if="sides.length"
        v-model="side"
        label="What is copied"
        :options="[{ value: '', label: 'All of it' }, ...sides.map((s) => ({ value: s, label: `${s} onto ${sides.find((o) => o !== s)}` }))]"
      />
      <NCheckboxGroup v-if="channel" v-model:value="channels" class="several" aria-label="To which channels"
        ><NCheckbox v-for="c in alike" :key="c.key" :value="c.key" :disabled="c.key === channel && !to.length && !side">{{ c.name }}</NCheckbox></NCheckboxGroup
      >
      <template v-if="others.length">
        <h3>On other devices of this kind in place of this one</h3>
        <NCheckboxGroup v-model:value="to" class="several" aria-label="On which devices"
          ><NCheckbox v-for="d in others.slice(0, 200)" :key="d.id" :value="d.id"
            >{{ d.name }} <span class="dim tiny mono">{{ d.address }}</span></NCheckbox
          ></NCheckboxGroup
        >
      </template>
      <h3>{{ differences.length ? `${many(differences.length, 'parameter')} would be another` : 'Nothing would be another' }}</h3>
      <NTable v-if="differences.length" size="small" :bordered="false" class="close">
        <thead>
          <tr>
            <th>Where</th>
            <th>Parameter</th>
            <th>Was</th>
            <th>Becomes</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(d, i) in differences.slice(0, 200)" :key="i">
            <td>{{ d.device }} {{ d.channel }}</td>
            <td>{{ d.label }}</td>
            <td>{{ d.was }}</td>
            <td>
              <b>{{ d.now }}</b>
            </td>
          </tr>
        </tbody>
      </NTable>
      <p class="acts">
        <NButton id="copy-do" type="primary" attr-type="submit" :disabled="!differences.length">Copy</NButton><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
</style>
