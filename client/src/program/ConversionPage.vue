<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Tone } from '../shared/ui/FactTag.vue'
import { useDo } from '../shared/useDo'

/** Programs written with an older version: what converting them would change, line by line, before anything is; and the controllers that wait for a day of both. */
const store = useStore()
const attempt = useDo()
const { value: plan, problem, reload } = useShown('/conversion', () => ({}), 'all')
const sorts: { sort: Schemas['ConversionSort']; tone: Tone; mark: string; title: string; says: string }[] = [
  {
    sort: 'notCarried',
    tone: 'crimson',
    mark: '✕',
    title: 'Not carried over',
    says: 'It stays as it is and runs as it did, until you put something in its place.',
  },
  { sort: 'risky', tone: 'amber', mark: '▲', title: 'Risky', says: 'It is converted and may behave otherwise: look here in the day of both.' },
  { sort: 'customised', tone: 'amber', mark: '△', title: 'Customised', says: 'Somebody changed it by hand; only they know whether it still fits.' },
  { sort: 'changed', tone: 'moss', mark: '✓', title: 'Changed', says: 'It does what it did, in the form of today.' },
]
const groups = computed(() => sorts.map((s) => ({ ...s, lines: (plan.value?.lines ?? []).filter((l) => l.sort === s.sort) })).filter((g) => g.lines.length))
const isAsked = ref(false)
async function convert() {
  if (!(await attempt(() => post('/conversion', { body: { ids: null } }), 'Converted; undo takes it back, and the state before is kept under a name'))) return
  isAsked.value = false
  await reload()
}
</script>

<template>
  <PageShell :problem="problem" lede="Programs of an older version run as they did. Converting works on the design alone; what was is kept.">
    <template #facts>
      <FactTag v-if="plan?.sequences" tone="amber">▲ {{ many(plan.sequences, 'sequence') }} to convert</FactTag>
      <FactTag v-else-if="plan" tone="moss">✓ nothing to convert</FactTag>
    </template>
    <template v-if="plan?.sequences && store.may('engineer')" #actions>
      <NButton id="convert" type="primary" size="small" @click="isAsked = true">Convert {{ many(plan.sequences, 'sequence') }}…</NButton>
    </template>
    <div v-if="plan" class="older">
      <EmptyState v-if="!plan.lines.length && !plan.waiting.length" title="Every program is of this version">
        Open the project file of an older version under Projects, or take a program over from a controller: what is older is listed here with all that
        converting it would change.
      </EmptyState>
      <div v-if="plan.waiting.length" class="sheet" data-waiting>
        <h2>Before it is sent</h2>
        <p class="dim">These controllers run the older program; the converted one is lived beside it for a day first.</p>
        <NTable size="small" :bordered="false" class="close">
          <tbody>
            <tr v-for="w in plan.waiting" :key="w.id">
              <td>
                <b>{{ w.name }}</b>
              </td>
              <td>{{ w.sequences.join(', ') }}</td>
              <td>
                <FactTag :tone="w.mustBefore ? 'amber' : 'moss'">{{ w.mustBefore ? '▲ a day of both is missing' : '✓ may be sent' }}</FactTag>
              </td>
              <td><LinkButton :to="`/commission/${w.id}`">Its send</LinkButton></td>
            </tr>
          </tbody>
        </NTable>
      </div>
      <div v-for="g in groups" :key="g.sort" class="sheet" :data-sort="g.sort">
        <h2>
          {{ g.title }} <FactTag :tone="g.tone">{{ g.mark }} {{ g.lines.length }}</FactTag>
        </h2>
        <p class="dim">{{ g.says }}</p>
        <NTable size="small" :bordered="false" class="close">
          <tbody>
            <tr v-for="(l, i) in g.lines" :key="i">
              <td class="where">
                <RouterLink :to="`/program/${l.sequenceId}`">{{ l.sequence }}</RouterLink><br /><span class="dim tiny">{{ l.path }}</span>
              </td>
              <td>
                <b>{{ l.what }}</b><br />{{ l.why }}
              </td>
            </tr>
          </tbody>
        </NTable>
      </div>
    </div>
    <ModalBox v-if="isAsked && plan" label="Convert older programs" alert @close="isAsked = false">
      <h2>Convert {{ many(plan.sequences, 'sequence') }}</h2>
      <p>
        They will be put in the form of today, as one change that undo takes back. The state before is kept under a name, and in a backup. Nothing is sent: each
        controller that runs one of them asks for a day of both before it takes the new one.
      </p>
      <p class="acts"><NButton id="convert-now" type="primary" @click="convert">Convert</NButton><NButton @click="isAsked = false">Leave it</NButton></p>
    </ModalBox>
  </PageShell>
</template>

<style scoped>
.older {
  display: grid;
  gap: 10px;
}
.where {
  width: 260px;
}
</style>
