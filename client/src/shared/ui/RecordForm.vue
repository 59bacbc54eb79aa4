<script setup lang="ts">
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'

/** The fields of a record, each saved as soon as it is left. */
const props = defineProps<{ id: string; fields: Schemas['FieldText'][]; revision: number; disabled?: boolean }>()
const attempt = useDo()
const save = (field: Schemas['FieldText'], text: string) =>
  attempt(() => post('/cells', { body: { cells: [{ id: props.id, field: field.field.key, text, from: props.revision }] } }))
</script>

<template>
  <div>
    <label v-for="f in fields" :key="f.field.key" class="row" :title="f.field.hint ?? undefined"
      ><span>{{ f.label }}</span
      ><FieldInput :field="f.field" :model-value="f.text" :label="f.label" :disabled="disabled" @update:model-value="(t: string) => save(f, t)"
    /></label>
  </div>
</template>
