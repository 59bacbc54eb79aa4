<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'
import ModalBox from '../shared/ModalBox.vue'

/** Shows all that goes with a removal and all that depends on it, before it is done. */
const props = defineProps<{ ids: string[] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const preview = ref<Schemas['RemovalPreview'] | null>(null)
const go = ref<HTMLButtonElement>()
onMounted(async () => {
  if (!(await attempt(async () => (preview.value = await post('/removal', { ids: props.ids }))))) emit('close')
  setTimeout(() => go.value?.focus())
})
async function remove() {
  if (await attempt(() => post('/removal/apply', { ids: props.ids }), 'Removed. Ctrl Z brings it back.')) emit('close')
}
</script>

<template>
  <ModalBox v-if="preview" label="Remove" alert wide @close="emit('close')">
    <h2>{{ preview.sentence }}</h2>
    <div class="lists">
      <div>
        <h3>Goes</h3>
        <p v-for="l in preview.gone" :key="l.id">
          {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
        </p>
      </div>
      <div v-if="preview.changed.length">
        <h3>Stays, but loses its link</h3>
        <p v-for="l in preview.changed" :key="l.id">
          {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
        </p>
      </div>
    </div>
    <p class="acts">
      <button id="remove-do" ref="go" class="btn main" @click="remove">Remove {{ preview.gone.length }}</button
      ><button class="btn" @click="emit('close')">Keep it</button>
    </p>
  </ModalBox>
</template>

<style scoped>
.lists {
  display: flex;
  gap: 24px;
  max-height: 50vh;
  overflow: auto;
  margin: 10px 0;
}
.acts {
  display: flex;
  gap: 8px;
}
</style>
