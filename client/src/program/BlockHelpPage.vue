<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import BlockChart from './BlockChart.vue'
import BlockFacts from './BlockFacts.vue'
import { findKinds } from './story'

/** Every kind of block: by family, found by what it is or what it is for; the one that is chosen beside the list, with its chart. */
const { value: blocks } = useShown('/blocks', () => ({}), 'fixed')
const { value: stories } = useShown('/blocks/stories', () => ({}), 'fixed')
const query = ref('')
const all = computed(() => (blocks.value ?? []).map((b) => ({ ...b.definition, help: b.help })))
const found = computed(() => findKinds(all.value, query.value))
const families = computed(() => {
  const by = new Map<string, (typeof all.value)[number][]>()
  for (const d of found.value) by.set(d.group, [...(by.get(d.group) ?? []), d])
  return [...by]
})
const kind = ref('')
const shown = computed(() => found.value.find((d) => d.kind === kind.value) ?? found.value[0])
const story = computed(() => stories.value?.find((s) => s.kind === shown.value?.kind)?.story)
/** The settings of a block, each with what it is at first; a unit that follows from what is connected is not said. */
const settings = (d: Schemas['BlockType']) =>
  [
    ...(d.tables ?? []).map((t) => `${t.label}: ${t.least} to ${t.most} rows`),
    ...(d.texts ?? []).map((t) => t.label),
    ...d.choices.map((c) => `${c.label}: ${c.options.map((o) => o.label).join(' or ')}`),
    ...d.numbers.map((n) => `${n.label} ${n.default} ${['difference', 'measured', 'out'].includes(n.unit) ? '' : n.unit}`.trim() + ` (${n.low} to ${n.high})`),
  ].join('; ')
</script>

<template>
  <PageShell lede="Common rule: fault before released; stale and held by hand are passed on.">
    <template #facts
      ><FactTag>{{ found.length }}</FactTag
      ><TextBox v-model="query" style="width: 260px" placeholder="what it is, or what it is for" aria-label="Find a block"
    /></template>
    <div class="split">
      <nav aria-label="Kinds of blocks" class="kinds">
        <section v-for="[family, kinds] in families" :key="family">
          <h2>{{ family }}</h2>
          <BareButton
            v-for="d in kinds"
            :key="d.kind"
            class="kind"
            :class="{ on: d.kind === shown?.kind }"
            :aria-pressed="d.kind === shown?.kind"
            :data-kind="d.kind"
            @click="kind = d.kind as string"
            @focus="kind = d.kind as string"
            ><b>{{ d.name }}</b> <span class="dim">{{ d.help.summary }}</span></BareButton
          >
        </section>
        <EmptyState v-if="blocks && !found.length" title="No block has all these words">Try fewer, such as “keep”, “frost” or “chatter”.</EmptyState>
      </nav>
      <article v-if="shown" class="sheet" aria-live="polite">
        <h2>
          {{ shown.name }} <small class="dim">{{ shown.group }}{{ shown.hasMemory ? ' · has memory' : '' }}</small>
        </h2>
        <p>{{ shown.help.summary }}</p>
        <BlockChart v-if="story" :story="story" :name="shown.name" />
        <p class="mono formula">{{ shown.help.formula }}</p>
        <BlockFacts :help="shown.help" :settings="settings(shown)" />
      </article>
    </div>
  </PageShell>
</template>

<style scoped>
.split {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(380px, 480px);
  gap: 16px;
  align-items: start;
}
.kinds {
  display: grid;
  gap: 12px;
}
.kind {
  display: block;
  width: 100%;
  text-align: left;
  padding: 3px 8px;
  border-radius: 5px;
  font-size: 13px;
}
.kind.on {
  background: var(--plum-soft);
}
article {
  position: sticky;
  top: 8px;
  max-height: calc(100vh - 150px);
  overflow: auto;
}
h2 small {
  font: 12px var(--sans);
}
.formula {
  background: var(--sunk);
  border-radius: 6px;
  padding: 4px 8px;
  margin: 6px 0;
}
@media (max-width: 900px) {
  .split {
    grid-template-columns: 1fr;
  }
  article {
    order: -1;
    position: static;
    max-height: none;
  }
}
</style>
