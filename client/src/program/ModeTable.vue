<script setup lang="ts">
import { useThrottleFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import type { Block, Sequence, Source } from '../shared/api/records'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import ModeMore from './ModeMore.vue'
import ModeRow from './ModeRow.vue'
import { columnPin, columnsOf, modesOf, tableOf, withMode, withNewColumn, withNewMode, withoutColumn, withTable, type Mode } from './modes'
import type { SequenceWork } from './useSequence'

/** A mode table: modes as rows in order of precedence, what they say as columns; the present one is marked, with the time in it and what it waits for. */
const props = defineProps<{ work: SequenceWork; block: Block }>()
const { s, may, pinLive, picked } = props.work
const store = useStore()
const modes = computed(() => modesOf(props.block))
const columns = computed(() => columnsOf(props.block))
const called = computed(() => props.work.say(props.block))
const place = computed(() => pinLive(props.block.id)?.v ?? null)
const isNow = (m: Mode) => place.value !== null && modes.value[place.value - 1]?.slot === m.slot
const standing = shallowRef<Schemas['ModesView'] | null>(null)
watch(
  () => [place.value, pinLive(props.block.id, 'time')?.text, s.value?.controllerId],
  useThrottleFn(
    async () => {
      if (place.value !== null)
        standing.value = (await get('/sequences/{id}/modes/{block}', { path: { id: s.value!.id, block: props.block.id } }).catch(() => null))?.now ?? null
      else standing.value = null
    },
    2500,
    true,
    true,
  ),
  { immediate: true },
)
const lasts = (s: number) => (s < 120 ? `${Math.floor(s)} s` : s < 7200 ? `${Math.floor(s / 60)} min` : `${(s / 3600).toFixed(1)} h`)
const at = (ms: number) => siteTime(ms, store.clock?.timeZone, false, true)
const template = computed(() => `44px 140px 210px 210px 74px 74px ${columns.value.map(() => 'minmax(120px, 1fr)').join(' ')} 34px`)
const unfolded = ref<number | null>(null)
const save = (next: Sequence | null, label: string) => (next ? props.work.save(next, label) : Promise.resolve(false))
const set = (m: Mode, patch: Partial<Mode>, label = `Changed mode ‘${m.name}’ of ‘${called.value}’`) =>
  save(withMode(s.value!, props.block, m.slot, patch), label)
const addMode = () => save(withNewMode(s.value!, props.block), `Added a mode to ‘${called.value}’`)
const addColumn = (name?: string) => withNewColumn(s.value!, props.block, name)
async function addFree() {
  const made = addColumn()
  if (made) await save(made.sequence, `Added a column to ‘${called.value}’`)
}
/** A column for an output: it is commanded from the table, at the priority that is free. */
async function addOutput(pointId: string, name: string) {
  await props.work.addOutput(pointId, name)
  const ladder = props.work.ladderBy(`o:${pointId}`)
  const made = addColumn(name)
  if (!made || ladder?.freePriority == null) return
  const claim = { priority: ladder.freePriority, label: called.value, source: { from: 'block', blockId: props.block.id, pin: columnPin(made.slot) } as Source }
  const commands = made.sequence.commands?.map((c) => (c.pointId === pointId ? { ...c, claims: [...(c.claims ?? []), claim] } : c))
  await save({ ...made.sequence, commands }, `‘${called.value}’ commands ‘${name}’`)
  picked.value = [props.block.id]
}
const findOutput = async (text: string) =>
  (await props.work.sources(text)).flatMap((g) => (g.source.from === 'point' ? [{ key: g.source.pointId, label: g.name, sub: g.path }] : []))
</script>

<template>
  <section class="sheet modes" :aria-label="`Modes of ${called}`" :data-modes="block.id">
    <div class="head">
      <h2>{{ called }}</h2>
      <FactTag v-if="place !== null" tone="plum">▶ {{ modes[place - 1]?.name }} for {{ lasts(pinLive(block.id, 'time')?.v ?? 0) }}</FactTag>
      <FactTag v-else>not running</FactTag>
      <span class="dim">the first row that holds is the mode; the last one where none does</span><span class="space" />
      <NCheckbox
        v-if="may"
        :checked="tableOf(block).beginsAgain"
        size="small"
        @update:checked="(v: boolean) => save(withTable(s!, block, { beginsAgain: v }), `Changed what ‘${called}’ does after a restart`)"
        >begins anew after a restart</NCheckbox
      >
      <NButton v-if="may" size="small" data-add-mode @click="addMode">Add a mode</NButton>
    </div>
    <div class="scroll">
      <div class="grid" role="table" :aria-label="`Modes of ${called}`" :style="{ gridTemplateColumns: template }">
        <div role="row" class="line headings">
          <span role="columnheader">rank</span><span role="columnheader">mode</span><span role="columnheader">comes when, for</span
          ><span role="columnheader">goes when, for</span><span role="columnheader">at least</span><span role="columnheader">at most</span>
          <span v-for="c in columns" :key="c.slot" role="columnheader" class="col">
            <TextBox
              lazy
              size="small"
              :model-value="c.name"
              maxlength="40"
              :disabled="!may"
              :aria-label="`Column ${c.name}`"
              @update:model-value="
                (name: string) =>
                  name.trim() &&
                  name.trim() !== c.name &&
                  save(
                    withTable(s!, block, { columns: columns.map((x) => (x.slot === c.slot ? { ...x, name: name.trim() } : x)) }),
                    `Renamed a column of ‘${called}’`,
                  )
              "
            />
            <NButton
              v-if="may"
              size="tiny"
              quaternary
              :aria-label="`Remove column ${c.name}`"
              @click="save(withoutColumn(s!, block, c.slot), `Removed column ‘${c.name}’ of ‘${called}’`)"
              >✕</NButton
            >
          </span>
          <span role="columnheader" />
        </div>
        <template v-for="(m, i) in modes" :key="m.slot">
          <ModeRow
            :work="work"
            :block="block"
            :mode="m"
            :rank="i + 1"
            :is-now="isNow(m)"
            :unfolded="unfolded === m.slot"
            @fold="unfolded = unfolded === m.slot ? null : m.slot"
          />
          <ModeMore v-if="unfolded === m.slot" :mode="m" :modes="modes" :disabled="!may" @set="(patch) => set(m, patch)" />
        </template>
      </div>
    </div>
    <div v-if="may" class="head">
      <ComboBox
        style="flex: 0 1 300px"
        :find="findOutput"
        after="clear"
        placeholder="Command an output from it: words"
        :aria-label="`Command an output from ${called}`"
        @choose="(item) => item && addOutput(item.key, item.label)"
      />
      <NButton size="small" @click="addFree">Add a free column</NButton>
    </div>
    <div v-if="standing" class="stands">
      <p v-if="standing.waits.length">
        <b>Waits:</b> <span v-for="w in standing.waits" :key="w" class="wait">{{ w }}.</span>
      </p>
      <p class="dim tiny">
        Before: <span v-for="(l, i) in standing.last" :key="i" class="wait mono">{{ at(l.at) }} {{ l.mode }}</span> · {{ standing.changes }} changes in all
      </p>
    </div>
  </section>
</template>

<style scoped>
.modes {
  display: grid;
  gap: 8px;
}
.scroll {
  overflow-x: auto;
}
.grid {
  display: grid;
  gap: 4px 8px;
  align-items: center;
  min-width: min-content;
}
.line {
  display: contents;
}
.grid :deep([role='cell']:nth-child(2)),
.grid :deep([role='columnheader']:nth-child(2)) {
  position: sticky;
  left: 0;
  z-index: 3;
  display: flex;
  align-items: center;
  align-self: stretch;
  box-shadow:
    4px 0 0 var(--sheet),
    -60px 0 0 var(--sheet);
  background: var(--sheet);
}
.headings > span {
  font-size: 12.5px;
  color: var(--ink-2);
  border-bottom: 1px solid var(--rule);
}
.col {
  display: flex;
  gap: 4px;
  align-items: center;
}
.stands p {
  margin: 2px 0;
}
.wait {
  margin-right: 10px;
}
</style>
