<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import CopyBox from './CopyBox.vue'
import ParameterInput from './ParameterInput.vue'

/** The parameters of a channel, page by page; found by words, only what differs at a press, what is hidden with why. */
const props = defineProps<{ view: Schemas['BusDeviceView']; channel: string; led: string }>()
const emit = defineEmits<{ 'update:led': [path: string] }>()
const store = useStore()
const attempt = useDo()
const words = ref('')
const differing = ref(false)
const hidden = ref(false)
const copying = ref(false)
const list = ref<Schemas['ParameterView'][] | null>(null)
const wide = computed(() => !!words.value.trim() || differing.value)
async function load() {
  list.value = await post('/bus/devices/{id}/parameters', {
    path: { id: props.view.device.id },
    body: {
      channel: wide.value ? null : props.channel,
      words: words.value,
      differing: differing.value,
      hidden: hidden.value || differing.value || !!words.value.trim(),
    },
  })
}
watch([() => props.channel, () => props.view.revision, words, differing, hidden], () => void attempt(load), { immediate: true })
const pages = computed(() => {
  const found = new Map<string, Schemas['ParameterView'][]>()
  for (const p of list.value ?? []) {
    const page = wide.value ? `${p.channelTitle} · ${p.page}` : p.page
    if (!found.has(page)) found.set(page, [])
    found.get(page)!.push(p)
  }
  return [...found]
})
const set = (path: string, text: string | null) =>
  attempt(() => post('/bus/devices/{id}/settings', { path: { id: props.view.device.id }, body: { settings: [{ path, text }], from: props.view.revision } }))
watch(
  () => props.led,
  async (path) => {
    if (!path) return
    hidden.value = true
    await load()
    await nextTick()
    const row = document.querySelector<HTMLElement>(`[data-path="${path}"]`)
    row?.scrollIntoView({ block: 'center' })
    row?.querySelector<HTMLElement>('input, [role=combobox]')?.focus()
    emit('update:led', '')
  },
  { immediate: true },
)
const named = computed(() => props.view.channels.find((c) => c.key === props.channel))
const rename = (name: string) =>
  attempt(() => {
    const use = named.value?.use
    return post('/bus/devices/{id}/uses', {
      path: { id: props.view.device.id },
      body: { channel: props.channel, name, placeId: use?.placeId ?? null, equipmentId: use?.equipmentId ?? null },
    })
  })
</script>

<template>
  <div>
    <div class="tools">
      <TextBox id="parameter-words" v-model="words" placeholder="words of a parameter" aria-label="Words of a parameter" style="width: 220px" />
      <NCheckbox v-model:checked="differing">only what was set</NCheckbox><NCheckbox v-model:checked="hidden">what is hidden, too</NCheckbox>
      <span class="space" />
      <label v-if="channel && !wide" class="named"
        >called
        <TextBox
          lazy
          :model-value="named?.use?.name ?? ''"
          :placeholder="named?.title"
          aria-label="Name of the channel"
          style="width: 170px"
          @update:model-value="rename"
      /></label>
      <NButton v-if="store.may('engineer')" id="copy-channel" @click="copying = true">Copy to…</NButton>
    </div>
    <EmptyState v-if="list && !list.length" :title="differing ? 'Nothing was set' : 'Nothing found'"
      >{{ differing ? 'All parameters are as they begin.' : 'No parameter has these words; shorter ones may find it.' }}
    </EmptyState>
    <section v-for="[page, own] in pages" :key="page" class="sheet page">
      <h2>{{ page }}</h2>
      <div v-for="p in own" :key="p.path" class="parameter" :class="{ gone: !p.isThere, set: p.differs }" :data-path="p.path">
        <span class="label" :title="p.help ?? ''">{{ p.label }}</span>
        <ParameterInput :parameter="p" :disabled="!store.may('engineer')" @set="(text) => set(p.path, text)" />
        <NButton v-if="p.differs" text size="tiny" :title="`It begins with ${p.default}`" :disabled="!store.may('engineer')" @click="set(p.path, null)"
          >back to {{ p.default }}</NButton
        >
        <span v-else class="dim tiny">{{ p.help }}</span>
        <p v-if="!p.isThere" class="why">
          ○ Not in force. {{ p.hidden }}
          <template v-for="n in p.needs" :key="n.path"
            ><br />{{ n.label }} is ‘{{ n.now }}’ now.
            <NButton v-if="n.proposal && store.may('engineer')" text size="tiny" type="info" @click="set(n.path, n.proposal)"
              >Set it so that {{ n.needs }}</NButton
            ></template
          >
        </p>
      </div>
    </section>
    <p v-if="list && list.length >= 2000" class="dim">The first {{ many(2000, 'parameter') }}; more words find the others.</p>
    <CopyBox v-if="copying" :view="view" :channel="channel" @close="copying = false" />
  </div>
</template>

<style scoped>
.tools {
  display: flex;
  gap: 12px;
  align-items: center;
  margin-bottom: 8px;
  flex-wrap: wrap;
}
.space {
  flex: 1;
}
.page {
  margin-bottom: 8px;
  padding: 8px 14px;
}
.parameter {
  display: grid;
  grid-template-columns: minmax(150px, 220px) 230px minmax(0, 1fr);
  gap: 4px 12px;
  align-items: center;
  padding: 2px 0 2px 8px;
  border-left: 3px solid transparent;
}
.parameter.set {
  border-left-color: var(--plum);
}
.parameter > :nth-child(3) {
  justify-self: start;
}
.gone .label {
  color: var(--ink-2);
  font-style: italic;
}
.why {
  grid-column: 1 / -1;
  margin: 0 0 4px;
  color: var(--ink-2);
  font-size: 12.5px;
}
@media (max-width: 700px) {
  .parameter {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
