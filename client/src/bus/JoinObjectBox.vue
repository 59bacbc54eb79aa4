<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Joins an object of any device to a group address, from the side of the address. */
const props = defineProps<{ group: Schemas['AddressLine'] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const device = ref('')
const object = ref<string | null>(null)
const first = ref(false)
const { value: objects } = useShown('/bus/devices/{id}/objects', () => (device.value ? { path: { id: device.value } } : null), ['busDevice'])
/** What has the same main type comes first; the others may be meant all the same. */
const options = computed(() => {
  const main = props.group.type.split('.')[0]
  return [...(objects.value ?? [])]
    .sort((a, b) => Number(a.type.split('.')[0] !== main) - Number(b.type.split('.')[0] !== main))
    .map((o) => ({ value: o.path, label: `${o.name} · ${o.type}${o.type.split('.')[0] === main ? '' : ', another type'}` }))
})
const chosen = computed(() => objects.value?.find((o) => o.path === object.value))
async function join() {
  const done = await attempt(() => {
    if (!chosen.value) throw new Error('Choose a device, then one of its objects.')
    const had = chosen.value.groups.map((g) => g.number).filter((n) => n !== props.group.number)
    return post('/bus/devices/{id}/joins', {
      path: { id: device.value },
      body: { object: chosen.value.path, groups: first.value ? [props.group.number, ...had] : [...had, props.group.number], make: false, from: null },
    })
  }, 'Joined')
  if (done) emit('close')
}
</script>

<template>
  <ModalBox label="Join an object" @close="emit('close')">
    <form @submit.prevent="join">
      <h2>Join an object to {{ group.number }}</h2>
      <p class="dim">{{ group.name }} · {{ group.type }} {{ group.typeName }}</p>
      <label class="row"
        ><span>Device</span
        ><RecordPicker
          id="join-device"
          nouns="bus device"
          placeholder="words of a device"
          aria-label="Device"
          @choose="(hit) => ((device = hit?.id ?? ''), (object = null))"
      /></label>
      <label class="row"
        ><span>Object</span><PickOne id="join-object" v-model="object" :options="options" placeholder="of the device" aria-label="Object"
      /></label>
      <NCheckbox v-if="chosen?.sends && chosen.groups.length" v-model:checked="first">It says this one, in place of {{ chosen.groups[0]!.number }}</NCheckbox>
      <p class="acts"><NButton id="join-do" type="primary" attr-type="submit">Join it</NButton><NButton @click="emit('close')">Leave</NButton></p>
    </form>
  </ModalBox>
</template>
