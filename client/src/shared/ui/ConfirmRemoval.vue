<script setup lang="ts">
import { onMounted, ref } from 'vue'
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'

/** Shows all that goes with a removal and all that depends on it, before it is done. */
const props = defineProps<{ ids: string[] }>()
const emit = defineEmits<{ close: [removed: boolean] }>()
const attempt = useDo()
const preview = ref<Schemas['RemovalPreview'] | null>(null)
onMounted(async () => {
  const body = { ids: props.ids }
  if (!(await attempt(async () => (preview.value = await post('/removal', { body }))))) emit('close', false)
})
async function remove() {
  const body = { ids: props.ids }
  if (await attempt(() => post('/removal/apply', { body }), 'Removed. Ctrl Z brings it back.')) emit('close', true)
}
</script>

<template>
  <ModalBox v-if="preview" label="Remove" alert wide @close="emit('close', false)">
    <h2>{{ preview.sentence }}</h2>
    <div class="lists" tabindex="0" role="group" aria-label="What goes, and what changes">
      <div
        v-for="[title, lines] in [
          ['Goes', preview.gone],
          ['Stays, but loses its link', preview.changed],
        ] as const"
        :key="title"
      >
        <template v-if="lines.length">
          <h3>{{ title }}</h3>
          <p v-for="l in lines" :key="l.id">
            {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
          </p>
        </template>
      </div>
    </div>
    <p class="acts">
      <NButton id="remove-do" type="primary" @click="remove">Remove {{ preview.gone.length }}</NButton>
      <NButton @click="emit('close', false)">Keep it</NButton>
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
</style>
