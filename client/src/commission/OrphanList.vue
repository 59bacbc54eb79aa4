<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** What the server still supervises and no controller has any more, removed from everywhere at once; and what controllers have and the project does not know, taken in or taken for a point that it has. */
const store = useStore()
const attempt = useDo()
const { value: list, reload } = useShown('/orphans', () => ({}), 'all')
const chosen = ref<string[]>([])
const isAsked = ref(false)
const why = ref('')
const mapped = ref<Schemas['UnknownRecord'] | null>(null)
const to = ref<string | null>(null)
async function remove() {
  if (!(await attempt(() => post('/orphans/remove', { body: { keys: chosen.value, why: why.value } }), 'Removed; it is in the trail'))) return
  isAsked.value = false
  ;[chosen.value, why.value] = [[], '']
  await reload()
}
const takeIn = (u: Schemas['UnknownRecord']) =>
  attempt(() => post('/commission/{id}/take-over', { path: { id: u.hostId }, body: { ids: [u.id] } }), 'Taken in; undo takes it back')
async function map() {
  const { hostId, id } = mapped.value!
  if (await attempt(() => post('/orphans/map', { body: { hostId, recordId: id, to: to.value! } }), 'Taken for it; undo takes it back')) mapped.value = null
}
</script>

<template>
  <div v-if="list" class="sheet" data-orphans>
    <div class="head">
      <h2>
        Orphans <FactTag :tone="list.leftOver.length ? 'amber' : 'moss'">{{ list.leftOver.length ? `▲ ${list.leftOver.length}` : '✓ none' }}</FactTag>
      </h2>
      <span class="dim">what is still supervised or kept here and no controller has any more</span>
      <span class="space" />
      <NButton v-if="list.leftOver.length && store.may('engineer')" id="orphans-remove" size="small" :disabled="!chosen.length" @click="isAsked = true"
        >Remove {{ chosen.length || '' }}…</NButton
      >
    </div>
    <NCheckboxGroup v-model:value="chosen">
      <NTable v-if="list.leftOver.length" size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="o in list.leftOver" :key="o.key" :data-orphan="o.key">
            <td><NCheckbox :value="o.key" :disabled="!store.may('engineer')" :aria-label="`Choose ${o.name}`" /></td>
            <td>{{ o.sort }}</td>
            <td>
              <b>{{ o.name }}</b><br /><span class="dim tiny">{{ o.why }}</span>
            </td>
            <td class="dim">{{ o.removing }}</td>
          </tr>
        </tbody>
      </NTable>
    </NCheckboxGroup>
    <template v-if="list.unknown.length">
      <h3>
        Not known here <FactTag tone="amber">▲ {{ list.unknown.length }}</FactTag> <span class="dim">what controllers have and the project does not know</span>
      </h3>
      <NTable size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="u in list.unknown" :key="u.hostId + u.id" :data-unknown="u.id">
            <td>
              <b>{{ u.host }}</b> <span class="mono">{{ u.terminal }}</span>
            </td>
            <td>{{ u.noun }}</td>
            <td>
              <b>{{ u.name }}</b>
            </td>
            <td class="acts">
              <span v-if="u.refusal" class="dim">{{ u.refusal }}</span>
              <NButton v-else-if="store.may('engineer')" size="small" data-act="take-in" @click="takeIn(u)">Take into the project</NButton>
              <NButton
                v-if="u.noun === 'point' && u.terminal && store.may('engineer')"
                size="small"
                data-act="map"
                @click="
                  () => {
                    mapped = u
                    to = null
                  }
                "
                >It is…</NButton
              >
            </td>
          </tr>
        </tbody>
      </NTable>
    </template>
    <ModalBox v-if="isAsked" label="Remove what is left over" alert @close="isAsked = false">
      <form @submit.prevent="remove">
        <h2>Remove {{ many(chosen.length, 'thing') }} from everywhere</h2>
        <p v-for="o in list.leftOver.filter((l) => chosen.includes(l.key))" :key="o.key">
          <b>{{ o.name }}</b>: {{ o.removing }}
        </p>
        <label class="row"><span>Why</span><TextBox id="orphans-why" v-model="why" required maxlength="200" placeholder="what made it useless" /></label>
        <p class="acts"><NButton id="orphans-do" type="primary" attr-type="submit">Remove</NButton><NButton @click="isAsked = false">Leave it</NButton></p>
      </form>
    </ModalBox>
    <ModalBox v-if="mapped" label="Take it for a point of the project" @close="mapped = null">
      <form @submit.prevent="map">
        <h2>{{ mapped.host }} {{ mapped.terminal }} is…</h2>
        <p>The point of the project that ‘{{ mapped.name }}’ stands for. It is put onto {{ mapped.terminal }}; the next send gives the controller its name.</p>
        <RecordPicker id="map-to" nouns="point" placeholder="a point, by its name or place" @choose="(hit) => (to = hit?.id ?? null)" />
        <p class="acts">
          <NButton id="map-do" type="primary" attr-type="submit" :disabled="!to">It is this one</NButton><NButton @click="mapped = null">Leave it</NButton>
        </p>
      </form>
    </ModalBox>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 6px;
  justify-content: flex-end;
}
h3 {
  margin: 12px 0 4px;
}
</style>
