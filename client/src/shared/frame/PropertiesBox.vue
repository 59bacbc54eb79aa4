<script setup lang="ts">
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'

/** The fields of a record that no other page edits; each is saved as soon as it is left. What a text means, the server says. */
const props = defineProps<{ id: string; fields: Schemas['FieldText'][]; revision: number }>()
const attempt = useDo()
async function save(field: Schemas['FieldText'], e: Event) {
  const input = e.target as HTMLInputElement
  const done = await attempt(() => post('/cells', { cells: [{ id: props.id, field: field.field.key, text: input.value, from: props.revision }] }))
  // What was refused is not shown as if it stood.
  if (!done) input.value = field.text
}
</script>

<template>
  <div class="properties">
    <label v-for="f in fields" :key="f.field.key" class="row"
      ><span>{{ f.label }}</span
      ><select v-if="f.field.choices.length" class="field" :value="f.text" @change="save(f, $event)">
        <option v-for="c in f.field.choices" :key="c">{{ c }}</option></select
      ><span v-else-if="f.field.isNumber"
        ><input class="field mono" inputmode="decimal" style="width: 100px" :value="f.text" @change="save(f, $event)" /> {{ f.field.unit }}</span
      ><input v-else class="field" :value="f.text" :placeholder="f.field.hint ?? ''" @change="save(f, $event)"
    /></label>
  </div>
</template>

<style scoped>
.properties label.row {
  grid-template-columns: 84px minmax(0, 1fr);
}
</style>
