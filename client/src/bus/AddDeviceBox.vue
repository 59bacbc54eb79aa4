<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Adds bus devices of one kind to a room; on a line they get the next free addresses. */
const props = defineProps<{ lines: Schemas['LineLine'][] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const router = useRouter()
const { value: library } = useShown('/bus/descriptions', () => ({}), ['deviceDescription', 'busDevice'])
const device = ref<string | null>(null)
const place = ref('')
const line = ref<string>(props.lines[0]?.line.id ?? '')
const name = ref('')
const count = ref<number | null>(1)
const options = computed(() => (library.value ?? []).map((d) => ({ value: d.id, label: d.name })))
const about = computed(() => library.value?.find((d) => d.id === device.value))
async function add() {
  let made: string[] = []
  const done = await attempt(async () => {
    if (!device.value) throw new Error('Choose which device it is. If it is not in the list, read its description into the bus library first.')
    if (!place.value) throw new Error('Choose the room it is in from the list that comes up while you type. If there is none, add it under Plan first.')
    made = (
      await post('/bus/devices', {
        body: { descriptionId: device.value, placeId: place.value, lineId: line.value || null, name: name.value, count: count.value ?? 1 },
      })
    ).ids
  }, 'Added')
  if (!done) return
  emit('close')
  if (made.length === 1) await router.push(`/wire/bus/${made[0]}`)
}
</script>

<template>
  <ModalBox label="Add a bus device" @close="emit('close')">
    <form @submit.prevent="add">
      <h2>Add a bus device</h2>
      <label class="row"><span>Is</span><PickOne id="dev-is" v-model="device" :options="options" aria-label="Is" placeholder="which device" /></label>
      <p v-if="about" class="dim">{{ about.about }} Draws {{ about.busMilliamps }} mA from the bus; {{ about.objects }} objects.</p>
      <label class="row"
        ><span>In</span
        ><RecordPicker id="dev-in" nouns="room,floor,building,site" placeholder="words of a room" aria-label="In" @choose="(hit) => (place = hit?.id ?? '')"
      /></label>
      <label class="row"
        ><span>On line</span
        ><PickOne
          id="dev-line"
          v-model="line"
          :options="[{ value: '', label: 'none yet' }, ...lines.map((l) => ({ value: l.line.id, label: `${l.written} ${l.line.name}` }))]"
          aria-label="On line"
      /></label>
      <label class="row"><span>Name</span><TextBox id="dev-name" v-model="name" maxlength="80" :placeholder="about?.name ?? 'as its description'" /></label>
      <label class="row"><span>How many</span><NumberBox id="dev-count" v-model="count" /></label>
      <p class="acts"><NButton id="dev-do" type="primary" attr-type="submit">Add</NButton><NButton @click="emit('close')">Leave</NButton></p>
    </form>
  </ModalBox>
</template>
