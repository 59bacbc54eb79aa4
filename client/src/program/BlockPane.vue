<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import type { Block } from '../shared/api/records'
import { shownInputs } from './diagram'
import { post, type Schemas } from '../shared/api/http'
import BlockChart from './BlockChart.vue'
import BlockFacts from './BlockFacts.vue'
import OwnBlockPane from './OwnBlockPane.vue'
import SourceInput from './SourceInput.vue'
import TableInput from './TableInput.vue'
import TuningBox from './TuningBox.vue'
import type { SequenceWork } from './useSequence'
import WrapRow from './WrapRow.vue'

/** A block beside the diagram: its kind, label, sources, settings, and the help of its kind. */
const props = defineProps<{ work: SequenceWork; block: Block }>()
const { blocks, may, s } = props.work
const type = computed(() => props.work.typeOf(props.block)!)
const help = computed(() => blocks.value?.find((b) => b.definition.kind === props.block.kind)?.help)
const kinds = computed(() =>
  (blocks.value ?? [])
    .filter((b) => (!b.definition.isRetired && !b.definition.isInner) || b.definition.kind === props.block.kind)
    .map((b) => ({ value: b.definition.kind as string, label: b.definition.name })),
)
const hasSettings = computed(() => !!(type.value.numbers.length || type.value.choices.length || type.value.texts?.length || type.value.tables?.length))
/** What the block makes of the example of its kind, with its own settings. */
const story = shallowRef<Schemas['BlockStory'] | null>(null)
watch(
  () => JSON.stringify([props.block.kind, props.block.numbers, props.block.choices, props.block.tables, props.block.outputUnit]),
  async (asked) => {
    if (props.block.inside) return
    const { kind, numbers, choices, tables, outputUnit } = props.block
    const answer = await post('/blocks/story', { body: { id: 'b', kind, numbers, choices, tables, outputUnit } as Block }).catch(() => null)
    if (asked === JSON.stringify([props.block.kind, props.block.numbers, props.block.choices, props.block.tables, props.block.outputUnit])) story.value = answer
  },
  { immediate: true },
)
const tuning = ref(false)
const set = (patch: Partial<Block>) => props.work.setBlock(props.block.id, patch)
const unit = (name: string) => props.work.settingUnit(props.block.id, name)
const setText = (name: string, value: string | null) => set({ texts: value ? { ...props.block.texts, [name]: value.trim() } : null })
</script>

<template>
  <span class="dim">Block</span>
  <OwnBlockPane v-if="block.inside" :work="work" :block="block" />
  <label v-else class="row"
    ><span>Kind</span
    ><PickOne
      :model-value="block.kind as string"
      :options="kinds"
      :disabled="!may"
      aria-label="Kind"
      @update:model-value="(kind: string) => work.retype(block, kind)"
  /></label>
  <p v-if="may && type.isLoop" class="acts"><NButton id="tune" size="small" @click="tuning = true">Tune…</NButton></p>
  <TuningBox v-if="tuning" :work="work" :block="block" @close="tuning = false" />
  <WrapRow v-if="may" :work="work" />
  <label class="row"
    ><span>Label</span
    ><TextBox
      lazy
      :model-value="block.label"
      :placeholder="type.name"
      :disabled="!may"
      maxlength="60"
      aria-label="Label"
      @update:model-value="(t: string) => t.trim() !== (block.label ?? '') && set({ label: t.trim() || null })"
  /></label>
  <h3>Inputs</h3>
  <label v-for="p in shownInputs(block, type)" :key="p.name" class="row"
    ><span>{{ p.label }}{{ p.required ? '' : ' (may stay open)' }}</span
    ><SourceInput
      :sequence-id="s!.id"
      :says="work.sourceText(block.inputs?.[p.name])"
      :disabled="!may"
      :label="`Source of ${p.label}`"
      :data-pin="p.name"
      @choose="(x) => work.setInput(block.id, p.name, x)"
  /></label>
  <h3 v-if="hasSettings">Settings</h3>
  <label v-for="c in type.choices" :key="c.name" class="row"
    ><span>{{ c.label }}</span
    ><PickOne
      :model-value="block.choices?.[c.name] ?? c.options[0]!.value"
      :options="c.options"
      :disabled="!may"
      :data-choice="c.name"
      :aria-label="c.label"
      @update:model-value="(v: string) => set({ choices: { ...block.choices, [c.name]: v } })"
  /></label>
  <label v-for="n in type.numbers" :key="n.name" class="row"
    ><span>{{ n.label }}</span
    ><NumberBox
      :model-value="block.numbers?.[n.name] ?? n.default"
      :unit="unit(n.name)"
      :disabled="!may"
      :data-number="n.name"
      :aria-label="n.label"
      @update:model-value="(v) => set({ numbers: { ...block.numbers, [n.name]: v ?? n.default } })"
  /></label>
  <label v-for="x in type.texts" :key="x.name" class="row"
    ><span>{{ x.label }}</span
    ><TextBox
      v-if="x.isFree"
      lazy
      :model-value="block.texts?.[x.name]"
      :disabled="!may"
      :maxlength="x.most"
      :data-text="x.name"
      :aria-label="x.label"
      @update:model-value="(v: string) => v.trim() !== (block.texts?.[x.name] ?? '') && setText(x.name, v)" /><NSelect
      v-else
      :value="block.texts?.[x.name] || null"
      :options="work.offers(block.id, x.name).map((value) => ({ label: value, value }))"
      :disabled="!may"
      :data-text="x.name"
      filterable
      tag
      clearable
      placeholder="choose"
      @update:value="(v: string | null) => setText(x.name, v)"
  /></label>
  <TableInput
    v-for="x in type.tables"
    :key="x.name"
    :setting="x"
    :rows="block.tables?.[x.name] ?? x.default"
    :x-unit="unit(`${x.name}.x`)"
    :y-unit="unit(`${x.name}.y`)"
    :disabled="!may"
    @change="(rows) => set({ tables: { ...block.tables, [x.name]: rows } })"
  />
  <label v-if="type.choosesUnit" class="row"
    ><span>Output unit</span
    ><TextBox
      lazy
      mono
      :model-value="block.outputUnit"
      :disabled="!may"
      placeholder="as its inputs"
      aria-label="Output unit"
      @update:model-value="(t: string) => t.trim() !== (block.outputUnit ?? '') && set({ outputUnit: t.trim() || null })"
  /></label>
  <p v-if="may" class="acts"><NButton size="small" @click="work.duplicate">Duplicate</NButton><NButton size="small" @click="work.remove">Delete</NButton></p>
  <template v-if="help && !block.inside">
    <p>{{ help.summary }}</p>
    <BlockChart v-if="story" :story="story" :name="type.name" />
    <p class="mono formula">{{ help.formula }}</p>
    <BlockFacts :help="help" />
  </template>
</template>

<style scoped>
.formula {
  background: var(--sunk);
  border-radius: 6px;
  padding: 4px 8px;
}
</style>
