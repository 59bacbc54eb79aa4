<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'

/** What each column of a list says, over its first rows; where its headers are, and what empty places mean. */
const props = defineProps<{ list: Schemas['UploadedList']; sheet: number; mapping: Schemas['ListMapping']; fields: { value: string; label: string }[] }>()
const emit = defineEmits<{ sheet: [sheet: number]; change: [patch: Partial<Schemas['ListMapping']>] }>()
const current = computed(() => props.list.sheets[props.sheet]!)
const headerRow = computed(() => props.mapping.headerRow ?? 0)
const rows = computed(() => current.value.first.slice(Math.max(0, headerRow.value), headerRow.value + 6))
/** A column says one thing; what another one says already is not offered. */
const offered = (own: string) => props.fields.map((f) => ({ ...f, disabled: f.value !== 'none' && f.value !== own && props.mapping.columns.includes(f.value) }))
const setColumn = (i: number, field: string) => emit('change', { columns: props.mapping.columns.map((c, k) => (k === i ? field : c)) })
</script>

<template>
  <div class="sheet mapping">
    <div class="head">
      <PickOne
        v-if="list.sheets.length > 1"
        :model-value="sheet"
        :options="list.sheets.map((s, value) => ({ value, label: `${s.name} · ${count(s.rows)} rows` }))"
        aria-label="Sheet"
        style="width: 220px"
        @update:model-value="(s: number) => emit('sheet', s)"
      />
      <span>headers in row</span>
      <NumberBox :model-value="headerRow + 1" :width="56" aria-label="Header row" @update:model-value="(n) => emit('change', { headerRow: (n ?? 0) - 1 })" />
      <NCheckbox :checked="!!mapping.blankIsAbove" @update:checked="(blankIsAbove: boolean) => emit('change', { blankIsAbove })"
        >an empty place is the one above</NCheckbox
      >
      <span>building of rows that name none</span>
      <TextBox
        lazy
        style="width: 150px"
        :model-value="mapping.building"
        aria-label="Building of rows that name none"
        @update:model-value="(b: string) => emit('change', { building: b.trim() || null })"
      />
    </div>
    <div class="scroll">
      <NTable size="small" :bordered="false">
        <thead>
          <tr>
            <th v-for="(c, i) in mapping.columns" :key="i">
              <PickOne
                :model-value="c"
                :options="offered(c)"
                :aria-label="`Column ${i + 1} says`"
                style="min-width: 130px"
                @update:model-value="(f: string) => setColumn(i, f)"
              />
            </th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, r) in rows" :key="r" :class="{ headers: r === 0 && headerRow >= 0 }">
            <td v-for="(c, i) in mapping.columns" :key="i" :class="{ dim: c === 'none' }">{{ row[i] }}</td>
          </tr>
        </tbody>
      </NTable>
    </div>
  </div>
</template>

<style scoped>
.mapping {
  display: grid;
  gap: 10px;
}
.scroll {
  overflow-x: auto;
}
td {
  white-space: nowrap;
  max-width: 220px;
  overflow: hidden;
  text-overflow: ellipsis;
}
.headers td {
  font-weight: 700;
}
</style>
