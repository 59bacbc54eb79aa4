<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { count, many } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import { matching } from '../shared/words'

/** Gives rooms the bus devices, conversations and stories of a finished room or of a template of one; all of it is shown first. */
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const { value: templates } = useShown('/bus/room-templates', () => ({}), 'fixed')
const { value: places } = useShown('/places', () => ({ query: { kind: 'room' as const } }), ['place'])
const { value: conversations } = useShown('/bus/conversations', () => ({}), ['conversation'])
const MOST = 200
/** A room of the project by its id, or library and template with a stroke between. */
const model = ref<string | null>(null)
const models = computed(() => [
  ...(places.value ?? []).filter((p) => conversations.value?.some((c) => c.placeId === p.id)).map((p) => ({ value: p.id, label: `${p.name} · ${p.path}` })),
  ...(templates.value ?? []).map((t) => ({ value: `${t.library}/${t.id}`, label: `${t.name} · template in ${t.libraryName}` })),
])
const words = ref('')
const rooms = ref<string[]>([])
const offered = computed(() => matching(places.value ?? [], (p) => `${p.path} ${p.name}`, words.value).filter((p) => p.id !== model.value))
const body = (apply: boolean) => {
  const [library, templateId] = (model.value ?? '').split('/')
  return { ...(templateId ? { roomId: null, library, templateId } : { roomId: model.value, library: null, templateId: null }), rooms: rooms.value, apply }
}
const plan = ref<Schemas['FurnishedView'] | null>(null)
watch([model, rooms], () => {
  plan.value = null
  if (model.value && rooms.value.length) void attempt(async () => (plan.value = await post('/bus/furnish', { body: body(false) })))
})
async function furnish() {
  if (await attempt(() => post('/bus/furnish', { body: body(true) }), `Furnished ${many(rooms.value.length, 'room')}`)) emit('close')
}
const said = (label: string, names: readonly string[]) => (names.length ? `${label} ${names.join(', ')}` : '')
</script>

<template>
  <ModalBox label="Rooms like another" wide @close="emit('close')">
    <form @submit.prevent="furnish">
      <h2>Rooms like another</h2>
      <label class="row"
        ><span>Like</span><PickOne id="furnish-like" v-model="model" :options="models" placeholder="a room that is joined, or a template" aria-label="Like"
      /></label>
      <p class="dim">
        Rooms get its devices where they have none like them, the next channels of actuators elsewhere, its conversations with addresses by plan, and its
        stories. What somebody has set stays.
      </p>
      <h3>
        Rooms <FactTag>{{ rooms.length }}</FactTag>
      </h3>
      <div class="words">
        <TextBox id="furnish-words" v-model="words" placeholder="words of a floor or a room" aria-label="Words of rooms" /><NButton
          id="furnish-all"
          :disabled="!offered.length"
          @click="rooms = [...new Set([...rooms, ...offered.map((p) => p.id)])]"
          >All {{ count(offered.length) }}</NButton
        ><NButton v-if="rooms.length" quaternary @click="rooms = []">None</NButton>
      </div>
      <NCheckboxGroup v-model:value="rooms" class="several" aria-label="Rooms"
        ><NCheckbox v-for="p in offered.slice(0, MOST)" :key="p.id" :value="p.id"
          >{{ p.name }} <span class="dim tiny">{{ p.path }}</span></NCheckbox
        ></NCheckboxGroup
      >
      <p v-if="offered.length > MOST" class="dim">{{ count(offered.length - MOST) }} more; type words to find them.</p>
      <template v-if="plan">
        <p v-for="r in plan.refusals" :key="r" class="wrong">✕ {{ r }}</p>
        <h3 v-if="!plan.refusals.length">
          {{
            plan.edits
              ? `${many(plan.edits, 'record')} in one change: ${count(plan.addresses) + (plan.addresses === 1 ? ' address' : ' addresses')}, ${many(plan.joins, 'join')}`
              : 'They are like it already'
          }}
        </h3>
        <NTable v-if="plan.rooms.length" size="small" :bordered="false" class="close">
          <thead>
            <tr>
              <th>Room</th>
              <th>Devices</th>
              <th>Channels elsewhere</th>
              <th>Conversations and stories</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="r in plan.rooms.slice(0, MOST)" :key="r.placeId">
              <td>
                <b>{{ r.name }}</b>
              </td>
              <td>{{ [said('+', r.made), said('its own:', r.own)].filter(Boolean).join('; ') || '–' }}</td>
              <td>{{ r.channels.join(', ') || '–' }}</td>
              <td>{{ [...r.conversations, ...r.stories.map((s) => `‘${s}’`)].join(', ') || '–' }}</td>
            </tr>
          </tbody>
        </NTable>
        <template v-if="plan.doubts.length">
          <h3>▲ Look at these</h3>
          <p v-for="(d, i) in plan.doubts" :key="i">
            <b>{{ d.device }}</b> {{ d.what }} <span class="dim">{{ d.why }}</span>
          </p>
        </template>
      </template>
      <p class="acts">
        <NButton id="furnish-do" type="primary" attr-type="submit" :disabled="!plan?.edits || !!plan.refusals.length">Furnish them</NButton
        ><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.words {
  display: flex;
  gap: 8px;
}
.several {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
  max-height: 190px;
  overflow: auto;
}
</style>
