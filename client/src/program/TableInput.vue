<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'

/** The rows of a table setting: one is changed, added behind another, or taken out; each change is one edit. */
const props = defineProps<{
  setting: Schemas['TableSetting']
  rows: readonly Schemas['TableRow'][]
  xUnit: string
  yUnit: string
  disabled: boolean
}>()
const emit = defineEmits<{ change: [rows: Schemas['TableRow'][]] }>()
const columns = ['x', 'y'] as const
const all = computed(() => props.rows.map((r) => ({ x: Number(r.x), y: Number(r.y) })))
function set(at: number, key: 'x' | 'y', value: number | null) {
  if (value === null || all.value[at]![key] === value) return
  emit(
    'change',
    all.value.map((r, i) => (i === at ? { ...r, [key]: value } : r)),
  )
}
/** Halfway to the next row, so that the order holds; beyond the last one by the step that led to it. */
function add(at: number) {
  const rows = all.value
  const a = rows[at]!
  const b = rows[at + 1] ?? { x: a.x + Math.max(1, a.x - (rows[at - 1]?.x ?? a.x - 1)), y: a.y }
  const made = rows[at + 1] ? { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2 } : b
  emit('change', [...rows.slice(0, at + 1), made, ...rows.slice(at + 1)])
}
/** Its name for those who do not see it, and for whoever looks for it. */
const cell = (at: number, key: 'x' | 'y') => ({
  'aria-label': `Row ${at + 1}, ${key === 'x' ? props.setting.xLabel : props.setting.yLabel}`,
  'data-cell': `${at}.${key}`,
})
const remove = (at: number) =>
  emit(
    'change',
    all.value.filter((_, i) => i !== at),
  )
</script>

<template>
  <fieldset class="table" :aria-label="setting.label">
    <legend>{{ setting.label }}</legend>
    <div class="line dim">
      <span>{{ setting.xLabel }} {{ xUnit }}</span
      ><span>{{ setting.yLabel }} {{ yUnit }}</span>
    </div>
    <div v-for="(r, i) in all" :key="i" class="line">
      <NumberBox
        v-for="key in columns"
        :key="key"
        size="small"
        :width="90"
        :model-value="r[key]"
        :disabled="disabled"
        v-bind="cell(i, key)"
        @update:model-value="(v) => set(i, key, v)"
      />
      <NButton size="tiny" quaternary :disabled="disabled || all.length >= Number(setting.most)" :aria-label="`Add a row after row ${i + 1}`" @click="add(i)"
        >+</NButton
      >
      <NButton size="tiny" quaternary :disabled="disabled || all.length <= Number(setting.least)" :aria-label="`Take row ${i + 1} out`" @click="remove(i)"
        >−</NButton
      >
    </div>
  </fieldset>
</template>

<style scoped>
.table {
  border: 0;
  padding: 0;
  margin: 6px 0;
  display: grid;
  gap: 4px;
}
.line {
  display: grid;
  grid-template-columns: 1fr 1fr 28px 28px;
  gap: 6px;
  align-items: center;
}
</style>
