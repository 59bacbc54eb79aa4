<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'

const { value: blocks } = useShown('/blocks', () => ({}), 'fixed')
const query = ref('')
const shown = computed(() => {
  const words = query.value.toLowerCase().split(/\s+/)
  return (blocks.value ?? []).filter((b) => words.every((w) => `${b.definition.name} ${b.definition.words}`.toLowerCase().includes(w)))
})
/** The settings of a block, each with what it is at first; a unit that follows from what is connected is not said. */
const settings = ({ definition: d }: Schemas['BlockView']) =>
  [
    ...(d.tables ?? []).map((t) => `${t.label}: ${t.least} to ${t.most} rows`),
    ...(d.texts ?? []).map((t) => t.label),
    ...d.numbers.map((n) => `${n.label} ${n.default} ${['difference', 'measured', 'out'].includes(n.unit) ? '' : n.unit}`.trim()),
  ].join(', ')
</script>

<template>
  <PageShell lede="Common rule: fault before released; stale and held by hand are passed on.">
    <template #facts
      ><FactTag>{{ shown.length }}</FactTag
      ><TextBox v-model="query" style="width: 200px" placeholder="find a block by words" aria-label="Find a block"
    /></template>
    <div class="all">
      <article v-for="b in shown" :key="b.definition.kind" class="sheet">
        <h2>
          {{ b.definition.name }} <small class="dim">{{ b.definition.group }}{{ b.definition.hasMemory ? ' · has memory' : '' }}</small>
        </h2>
        <p>{{ b.help.summary }}</p>
        <p class="mono formula">{{ b.help.formula }}</p>
        <dl>
          <dt>Units</dt>
          <dd>{{ b.help.units }}</dd>
          <dt>Status</dt>
          <dd>{{ b.help.status }}</dd>
          <dt>Edge cases</dt>
          <dd>{{ b.help.edges }}</dd>
          <template v-if="settings(b)">
            <dt>Settings</dt>
            <dd>{{ settings(b) }}</dd>
          </template>
        </dl>
      </article>
    </div>
  </PageShell>
</template>

<style scoped>
.all {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(370px, 1fr));
  gap: 12px;
}
small {
  font: 12px var(--sans);
}
.formula {
  background: var(--sunk);
  border-radius: 6px;
  padding: 4px 8px;
  margin: 6px 0;
}
dl {
  display: grid;
  grid-template-columns: 80px 1fr;
  gap: 2px 8px;
  margin: 0;
  font-size: 13px;
}
dt {
  color: var(--ink-2);
}
dd {
  margin: 0;
}
</style>
