<script setup lang="ts">
import { computed, ref } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** What a controller runs, read back and laid against the design record by record; what runs there can be taken over, singly or whole. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const back = ref<Schemas['ReadBack'] | null>(null)
const chosen = ref<string[]>([])
const takable = computed(() => back.value?.lines.filter((l) => !l.refusal).map((l) => l.difference.id) ?? [])
const read = () =>
  attempt(async () => {
    back.value = await get('/commission/{id}/read-back', { path: { id: props.controller } })
    chosen.value = []
  })
async function takeOver(ids: string[] | null) {
  if (await attempt(() => post('/commission/{id}/take-over', { path: { id: props.controller }, body: { ids } }), 'Taken over; undo takes it back')) await read()
}
defineExpose({ read })
</script>

<template>
  <div v-if="back" class="sheet" data-read-back>
    <div class="head">
      <h2>Read back</h2>
      <span class="space" />
      <template v-if="takable.length && store.may('engineer')">
        <NButton id="take-some" size="small" :disabled="!chosen.length" @click="takeOver(chosen)">Take over {{ chosen.length || '' }}</NButton>
        <NButton id="take-all" size="small" @click="takeOver(null)">Take over all</NButton>
      </template>
    </div>
    <p>
      <b>{{ back.sentence }}</b> Version {{ back.version }}, {{ back.records }} records, {{ (back.bytes / 1024).toFixed(1) }} kB, hash
      <span class="mono">{{ back.hash.slice(0, 16) }}…</span>
    </p>
    <NCheckboxGroup v-model:value="chosen">
      <NTable v-if="back.lines.length" size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="l in back.lines" :key="l.difference.id + l.difference.noun" :data-back="l.difference.id">
            <td>
              <NCheckbox v-if="store.may('engineer')" :value="l.difference.id" :disabled="!!l.refusal" :aria-label="`Take over ${l.difference.name}`" />
            </td>
            <td>{{ l.difference.noun }}</td>
            <td>
              <b>{{ l.difference.name }}</b>
              <div v-for="f in l.difference.fields" :key="f.field" class="mono tiny">
                {{ f.words }}: runs {{ f.before ?? '–' }}, designed {{ f.after ?? '–' }}
              </div>
            </td>
            <td class="dim">{{ l.refusal ?? l.does }}</td>
          </tr>
        </tbody>
      </NTable>
    </NCheckboxGroup>
    <p v-if="back.lines.length" class="dim">
      {{ many(back.lines.length, 'record') }}. A send makes the controller run the design; taking over makes the design what runs. Tags and clauses stay as they
      are designed: no controller carries them.
    </p>
  </div>
</template>
