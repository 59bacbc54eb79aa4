<script setup lang="ts">
import { refDebounced } from '@vueuse/core'
import { computed, ref, shallowReactive, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { newId } from '../shared/api/records'
import { many } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import JoinPreview from './JoinPreview.vue'

/** Makes a conversation, or changes who takes part in one; what is made and joined is shown before it is done. */
const props = defineProps<{ of: Schemas['ConversationLine'] | null }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const { value: kinds } = useShown('/bus/conversation-kinds', () => ({}), 'fixed')
const id = props.of?.id ?? newId('conversation')
const kind = ref(props.of?.kind ?? 'lamp')
const place = ref(props.of?.placeId ?? '')
const name = ref(props.of?.name ?? '')
const words = ref('')
const parts = ref<string[]>((props.of?.parts ?? []).map((p) => `${p.deviceId}|${p.channel}`))
const wordsAsked = refDebounced(words, 150)
/** Those that could take part: of the room, or with the words that were typed, wherever they are. */
const asked = (typed: string) => ({ path: { placeId: place.value }, query: { kind: kind.value, words: typed } })
const { value: channels } = useShown('/bus/places/{placeId}/channels', () => (place.value ? asked(wordsAsked.value) : null), ['busDevice'])
type Choice = Schemas['ChannelChoice']
const keyOf = (c: { deviceId: string; channel: string }) => `${c.deviceId}|${c.channel}`
/** What is shown of a channel that was seen before: other words were typed since. */
const seen = shallowReactive(new Map<string, { device: string; name: string }>((props.of?.parts ?? []).map((p) => [keyOf(p), p])))
watch(channels, (list) => list?.forEach((c) => seen.set(keyOf(c), c)))
const about = computed(() => kinds.value?.find((k) => k.key === kind.value))
/** Lines of a list, each with words of a device and of a channel, choose what they name. */
function paste(e: ClipboardEvent) {
  const lines = (e.clipboardData?.getData('text/plain') ?? '')
    .split(/\r?\n/)
    .map((l) => l.replace(/[\s·;,]+/g, ' ').trim())
    .filter(Boolean)
  if (lines.length < 2) return
  e.preventDefault()
  void attempt(async () => {
    const found: string[] = []
    for (const line of lines) {
      const hits: Choice[] = await get('/bus/places/{placeId}/channels', asked(line))
      if (hits.length !== 1)
        throw new Error(`‘${line}’ names ${hits.length ? `${hits.length} channels` : 'no channel that could take part'}. Nothing of the list was chosen.`)
      seen.set(keyOf(hits[0]!), hits[0]!)
      found.push(keyOf(hits[0]!))
    }
    parts.value = [...new Set([...parts.value, ...found])]
    return true
  }, `${lines.length} chosen`)
}
const here = computed(() => (channels.value ?? []).filter((c) => c.isHere).map(keyOf))
const isOver = ref(false)
function drop(e: DragEvent) {
  isOver.value = false
  const part = e.dataTransfer?.getData('text/plain')
  if (part?.includes('|') && !parts.value.includes(part)) parts.value = [...parts.value, part]
}
const takingPart = computed(() => parts.value.map((key) => ({ key, of: seen.get(key) })))
const SHOWN = 120
const offered = computed(() => (channels.value ?? []).slice(0, SHOWN))
const conversation = computed(() => ({
  type: 'conversation' as const,
  id,
  name: name.value.trim() || (about.value?.label ?? ''),
  placeId: place.value,
  kind: kind.value,
  channels: parts.value.map((p) => ({ deviceId: p.split('|')[0]!, channel: p.split('|')[1]! })),
}))
const joined = ref<Schemas['JoinedView'] | null>(null)
const body = (apply: boolean) => ({ conversation: conversation.value, from: props.of?.revision ?? 0, apply })
watch(conversation, () => void (place.value && attempt(async () => (joined.value = await post('/bus/join', { body: body(false) })))), { immediate: true })
async function join() {
  const done = await attempt(() => {
    if (!place.value) throw new Error('Choose the room that it is about from the list that comes up while you type.')
    if (!name.value.trim()) throw new Error('Give it a name: what people call the lamp, the blind or the zone.')
    return post('/bus/join', { body: body(true) })
  }, 'Joined')
  if (done) emit('close')
}
</script>

<template>
  <ModalBox label="Conversation" wide @close="emit('close')">
    <form @submit.prevent="join">
      <h2>{{ of ? of.name : 'Add a conversation' }}</h2>
      <label class="row"
        ><span>Is about</span
        ><PickOne id="conv-kind" v-model="kind" :options="(kinds ?? []).map((k) => ({ value: k.key, label: k.label }))" aria-label="Is about"
      /></label>
      <p v-if="about" class="dim">{{ about.about }}: {{ about.roles.join(', ') }}</p>
      <label class="row"
        ><span>In</span
        ><RecordPicker
          id="conv-in"
          nouns="room,floor,building,site"
          :says="of?.path"
          placeholder="words of a room"
          aria-label="In"
          @choose="(hit) => (place = hit?.id ?? '')"
      /></label>
      <label class="row"><span>Name</span><TextBox id="conv-name" v-model="name" maxlength="80" placeholder="Track lighting" /></label>
      <template v-if="place">
        <h3>
          Take part <FactTag>{{ parts.length }}</FactTag>
        </h3>
        <div class="taking" :class="{ over: isOver }" @dragover.prevent="isOver = true" @dragleave="isOver = false" @drop.prevent="drop">
          <NTag v-for="p in takingPart" :key="p.key" closable size="small" @close="parts = parts.filter((x) => x !== p.key)">{{
            p.of ? `${p.of.device} · ${p.of.name}` : p.key
          }}</NTag><span class="dim tiny">{{ parts.length ? '' : 'tick channels below, drop them here, or paste a list of them into the box of words' }}</span>
        </div>
        <div class="find" @paste.capture="paste">
          <TextBox id="conv-words" v-model="words" placeholder="words of other channels, devices or rooms" aria-label="Words of channels" /><NButton
            v-if="!wordsAsked.trim() && here.length > 1"
            id="conv-room"
            @click="parts = [...new Set([...parts, ...here])]"
            >All {{ here.length }} of this room</NButton
          >
        </div>
        <NCheckboxGroup v-model:value="parts" class="several" aria-label="Take part">
          <NCheckbox
            v-for="c in offered"
            :key="c.deviceId + c.channel"
            :value="`${c.deviceId}|${c.channel}`"
            :data-part="`${c.device} ${c.channel}`"
            draggable="true"
            @dragstart="$event.dataTransfer?.setData('text/plain', `${c.deviceId}|${c.channel}`)"
            >{{ c.device }} · <b>{{ c.name }}</b> <span class="dim tiny">{{ c.behaviour }}{{ c.isHere ? '' : `, ${c.path}` }}</span></NCheckbox
          >
        </NCheckboxGroup>
        <p v-if="channels && channels.length > SHOWN" class="dim">The first {{ SHOWN }}; more words bring the others.</p>
        <p v-if="channels && !offered.length" class="dim">
          No channel here that could take part; type words to find others, or set a function on a device first.
        </p>
        <JoinPreview v-if="joined && parts.length" :joined="joined" />
      </template>
      <p class="acts">
        <NButton id="conv-do" type="primary" attr-type="submit">{{
          joined && parts.length ? `Join ${many(joined.lines.filter((l) => l.isNew).length, 'object')}` : 'Keep it'
        }}</NButton><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.taking {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  align-items: center;
  min-height: 34px;
  padding: 4px 6px;
  border: 1px dashed var(--rule);
}
.taking.over {
  outline: 2px solid var(--plum);
}
.find {
  display: flex;
  gap: 8px;
}
.several {
  display: grid;
  max-height: 190px;
  overflow: auto;
  gap: 2px;
}
</style>
