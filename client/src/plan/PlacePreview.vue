<script setup lang="ts">
import type { Schemas } from '../shared/api/http'

/** What a placing would make, row by row, each with its own values where they differ. */
defineProps<{ preview: Schemas['PlaceView']; parameters: readonly Schemas['TemplateParameter'][] }>()
const emit = defineEmits<{ set: [row: number, parameter: string, value: string]; leave: [] }>()
</script>

<template>
  <div class="sheet preview" aria-label="Preview">
    <p v-for="r in preview.refusals.slice(0, 8)" :key="r" class="bar high">✕ {{ r }}</p>
    <p>
      <b>{{ preview.placements }} placements</b>: {{ preview.records.join(', ') }}
    </p>
    <div class="scroll">
      <NTable size="small" :bordered="false">
        <thead>
          <tr>
            <th>Name</th>
            <th>Where</th>
            <th v-for="p in parameters" :key="p.name">{{ p.label }}{{ p.unit ? `, ${p.unit}` : '' }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(r, i) in preview.rows" :key="i">
            <td>
              <details>
                <summary>{{ r.name }}</summary>
                <ul>
                  <li v-for="(m, k) in r.records" :key="k">+ {{ m }}</li>
                </ul>
              </details>
            </td>
            <td class="dim">{{ r.path }}</td>
            <td v-for="p in parameters" :key="p.name">
              <TextBox
                lazy
                mono
                style="width: 80px"
                :model-value="r.values[p.name]"
                :aria-label="`${p.label} of ${r.name}`"
                @update:model-value="(v: string) => v !== r.values[p.name] && emit('set', i, p.name, v)"
              />
            </td>
          </tr>
        </tbody>
      </NTable>
    </div>
    <p class="acts"><slot /><NButton @click="emit('leave')">Leave</NButton></p>
  </div>
</template>

<style scoped>
.preview {
  display: grid;
  gap: 8px;
}
.scroll {
  max-height: 260px;
  overflow: auto;
}
ul {
  margin: 0;
  padding-left: 16px;
}
</style>
