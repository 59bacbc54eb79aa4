<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../api/http'
import { about } from './about'
import { useDo } from '../useDo'

/** The fields of a record, each saved as soon as it is left. The one that one stands in says below what it is. */
const props = defineProps<{ id: string; fields: Schemas['FieldText'][]; revision: number; disabled?: boolean }>()
const attempt = useDo()
const save = (field: Schemas['FieldText'], text: string) =>
  attempt(() => post('/cells', { body: { cells: [{ id: props.id, field: field.field.key, text, from: props.revision }] } }))
const stands = ref<Schemas['FieldText'] | null>(null)
</script>

<template>
  <div @focusout="stands = null">
    <label v-for="f in fields" :key="f.field.key" class="row" @focusin="stands = f"
      ><span>{{ f.label }}</span
      ><FieldInput :field="f.field" :model-value="f.text" :label="f.label" :disabled="disabled" @update:model-value="(t: string) => save(f, t)"
    /></label>
    <p class="dim tiny about">{{ stands ? about(stands.field) : 'A field says here what it is, as you stand in it.' }}</p>
  </div>
</template>

<style scoped>
.about {
  /* Room for two lines, so that nothing moves as the fields are walked through. */
  min-height: 2.8em;
}
</style>
