<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue'
import { post, type Schemas } from '../api/http'
import { useDo } from '../useDo'
import RemovalChoices from './RemovalChoices.vue'

/** Shows all that goes with a removal and all that depends on it, before it is done; for each a choice of what takes the place of what goes. */
const props = defineProps<{ ids: string[] }>()
const emit = defineEmits<{ close: [removed: boolean] }>()
const attempt = useDo()
const preview = ref<Schemas['RemovalPreview'] | null>(null)
const choices = ref<readonly Schemas['RemovalChoice'][]>([])
const body = computed(() => ({ ids: props.ids, choices: [...choices.value] }))
const look = async () => attempt(async () => (preview.value = await post('/removal', { body: body.value })))
onMounted(async () => (await look()) || emit('close', false))
watch(choices, look)
const asked = computed(() => (preview.value?.gone ?? []).filter((l) => !l.gone))
async function remove() {
  if (await attempt(() => post('/removal/apply', { body: body.value }), 'Removed. Ctrl Z brings it back.')) emit('close', true)
}
</script>

<template>
  <ModalBox v-if="preview" label="Remove" alert wide @close="emit('close', false)">
    <h2>{{ preview.sentence }}</h2>
    <div class="lists" tabindex="0" role="group" aria-label="What goes, and what changes">
      <p v-for="l in asked" :key="l.id">
        {{ l.noun }} <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
      </p>
      <h3 v-if="preview.changed.length || preview.gone.length > asked.length">What uses it</h3>
      <RemovalChoices v-model:choices="choices" :preview="preview" />
    </div>
    <p v-if="preview.refused" class="dim">{{ preview.refused }}</p>
    <p class="acts">
      <NButton id="remove-do" type="primary" :disabled="!!preview.refused" @click="remove">Remove {{ preview.gone.length }}</NButton>
      <NButton @click="emit('close', false)">Keep it</NButton>
    </p>
  </ModalBox>
</template>

<style scoped>
.lists {
  max-height: 54vh;
  overflow: auto;
  margin: 8px 0;
  display: grid;
  gap: 6px;
}
</style>
