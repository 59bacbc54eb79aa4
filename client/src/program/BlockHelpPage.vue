<script setup lang="ts">
import { computed, ref } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { useLoaded } from '../shared/store'

const { value: blocks } = useLoaded<Schemas['BlockView'][]>(() => get('/blocks'), undefined, [])
const query = ref('')
const shown = computed(() =>
  (blocks.value ?? []).filter((b) =>
    query.value
      .toLowerCase()
      .split(/\s+/)
      .every((w) => `${b.definition.name} ${b.definition.words}`.toLowerCase().includes(w)),
  ),
)
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Blocks</h1>
      <span class="pill">{{ shown.length }}</span><input v-model="query" class="field" placeholder="find a block by words" aria-label="Find a block" />
      <span class="dim">Common rule: fault before released; stale and held by hand are passed on.</span>
    </div>
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
          <template v-if="b.definition.numbers.length || b.definition.tables?.length || b.definition.texts?.length">
            <dt>Settings</dt>
            <dd>
              {{
                [...(b.definition.tables ?? []).map((t) => `${t.label}: ${t.least} to ${t.most} rows`), ...(b.definition.texts ?? []).map((t) => t.label)].join(
                  ', ',
                )
              }}
              {{
                b.definition.numbers.map((n) => `${n.label} ${n.default} ${['difference', 'measured', 'out'].includes(n.unit) ? '' : n.unit}`.trim()).join(', ')
              }}
            </dd>
          </template>
        </dl>
      </article>
    </div>
  </div>
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
