<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { matching } from '../shared/words'

/** The communication objects of a device, and the group addresses that each is joined to. */
const props = defineProps<{ view: Schemas['BusDeviceView']; channel: string }>()
const store = useStore()
const attempt = useDo()
const {
  value: objects,
  problem,
  reload,
} = useShown('/bus/devices/{id}/objects', () => ({ path: { id: props.view.device.id } }), ['busDevice', 'groupAddress', 'deviceDescription'])
const { value: addresses } = useShown('/bus/groups', () => ({}), ['groupAddress'])
const MOST = 60
const words = ref('')
const offered = computed(() => matching(addresses.value ?? [], (a) => `${a.number} ${a.name} ${a.type}`, words.value).slice(0, MOST))
const over = ref('')
const all = ref(false)
const shown = computed(() => objects.value?.filter((o) => all.value || o.channel === props.channel))
const join = (o: Schemas['ObjectView'], text: string) =>
  attempt(() =>
    post('/bus/devices/{id}/joins', {
      path: { id: props.view.device.id },
      body: { object: o.path, groups: text.split(/[,;\s]+/).filter(Boolean), make: true, from: props.view.revision },
    }),
  )
/** An address that is dropped on an object is heard by it, or said where nothing was said before. */
function drop(o: Schemas['ObjectView'], e: DragEvent) {
  over.value = ''
  const number = e.dataTransfer?.getData('text/plain')
  if (number && !o.groups.some((g) => g.number === number)) void join(o, [...o.groups.map((g) => g.number), number].join(', '))
}
/** Lines from a spreadsheet go into this object and those below it, all in one change; what has a tab before it is what the object is called. */
function paste(from: number, e: ClipboardEvent) {
  const lines = (e.clipboardData?.getData('text/plain') ?? '').split(/\r?\n/).filter((l) => l.trim())
  if (lines.length < 2) return
  e.preventDefault()
  const rows = shown.value!
  void attempt(() => {
    const joins = lines.map((line, i) => {
      const [named, groups] = line.includes('\t') ? line.split('\t') : [undefined, line]
      const o = named === undefined ? rows[from + i] : rows.find((r) => r.name === named.trim() || r.path === named.trim())
      if (!o)
        throw new Error(
          named === undefined
            ? `There are ${lines.length} lines and ${rows.length - from} objects from here on. Nothing was joined.`
            : `No object shown here is called ‘${named.trim()}’. Nothing was joined.`,
        )
      return { object: o.path, groups: (groups ?? '').split(/[,;\s]+/).filter(Boolean) }
    })
    return post('/bus/devices/{id}/joins/several', { path: { id: props.view.device.id }, body: { joins, make: true, from: props.view.revision } })
  }, `Joined ${lines.length} objects`)
}
</script>

<template>
  <div>
    <ErrorState v-if="problem" :problem="problem" @again="reload" />
    <div class="tools">
      <NCheckbox v-model:checked="all">of all channels</NCheckbox
      ><span class="dim">type addresses, drop one from the right, or paste lines from a spreadsheet</span>
    </div>
    <EmptyState v-if="shown && !shown.length" title="No object"
      >This channel says and hears nothing as it is set. Choose a function for it under Parameters.</EmptyState
    >
    <div v-else class="beside">
      <div class="sheet">
        <NTable size="small" :bordered="false" class="close">
          <thead>
            <tr>
              <th class="num">No.</th>
              <th>Object</th>
              <th>Type</th>
              <th>Flags</th>
              <th>Group addresses, the first is sent to</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="(o, i) in shown"
              :key="o.path"
              :data-object="o.path"
              :class="{ over: over === o.path }"
              @dragover.prevent="over = o.path"
              @dragleave="over = ''"
              @drop.prevent="drop(o, $event)"
              @paste.capture="paste(i, $event)"
            >
              <td class="num">{{ o.number }}</td>
              <td>
                {{ o.name }} <span class="dim tiny">{{ o.sends ? '→ says' : '' }}{{ o.sends && o.hears ? ', ' : '' }}{{ o.hears ? '← hears' : '' }}</span>
                <p v-if="!o.isThere" class="wrong tiny">○ {{ o.hidden }}</p>
              </td>
              <td>
                <span class="mono">{{ o.type }}</span> {{ o.typeName }}
              </td>
              <td class="mono" :title="'C communicates, R answers, W is written, T sends, U takes answers, I asks at the start'">{{ o.flags }}</td>
              <td>
                <TextBox
                  lazy
                  mono
                  size="small"
                  :model-value="o.groups.map((g) => g.number).join(', ')"
                  :disabled="!store.may('engineer')"
                  placeholder="1/2/34"
                  :aria-label="`Group addresses of ${o.name}`"
                  @update:model-value="(text: string) => join(o, text)"
                />
                <span class="dim tiny">{{ o.groups.map((g) => g.name).join('; ') }}</span>
              </td>
            </tr>
          </tbody>
        </NTable>
      </div>
      <section v-if="store.may('engineer')" class="sheet addresses" aria-label="Group addresses">
        <TextBox id="address-words" v-model="words" size="small" placeholder="words of an address" aria-label="Words of an address" />
        <p
          v-for="a in offered"
          :key="a.id"
          class="address"
          draggable="true"
          :data-address="a.number"
          @dragstart="$event.dataTransfer?.setData('text/plain', a.number)"
        >
          <b class="mono">{{ a.number }}</b> {{ a.name }}
        </p>
        <p v-if="(addresses?.length ?? 0) > offered.length && offered.length === MOST" class="dim tiny">Type words to find others.</p>
      </section>
    </div>
  </div>
</template>

<style scoped>
p {
  margin: 0;
}
.tools {
  display: flex;
  gap: 14px;
  align-items: center;
  margin-bottom: 8px;
}
.beside {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 240px;
  gap: 12px;
  align-items: start;
}
.addresses {
  display: grid;
  gap: 4px;
  max-height: 60vh;
  overflow: auto;
  padding: 10px;
}
.address {
  cursor: grab;
  font-size: 12px;
}
.over {
  outline: 2px solid var(--plum);
}
</style>
