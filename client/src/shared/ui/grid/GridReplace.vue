<script setup lang="ts">
import { ref, watch } from 'vue'
import { post, type Schemas } from '../../api/http'
import { kindOf, type KindKey } from '../../api/kinds'
import { count } from '../../numbers'
import { useDo } from '../../useDo'

/** Finding a text in one field of all the rows of a list and putting another instead, shown before it is done. */
const props = defineProps<{ kind: KindKey; plural: string; total: number; scope: string; words: string; filter: string }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const column = ref('name')
const find = ref('')
const replace = ref('')
const view = ref<Schemas['ReplaceView'] | null>(null)
watch([column, find, replace], () => (view.value = null))
const options = kindOf(props.kind).replace.map((f) => ({ value: f.key, label: `${f.label.toLowerCase()}s` }))
const asked = () => ({
  path: { key: props.kind },
  body: { scope: props.scope, words: props.words, filter: props.filter, column: column.value, find: find.value, replace: replace.value },
})
const look = () => attempt(async () => (view.value = await post('/grid/{key}/replace/preview', asked())))
async function apply() {
  if (await attempt(() => post('/grid/{key}/replace', asked()), `Replaced in ${view.value?.count} ${props.plural}`)) emit('close')
}
</script>

<template>
  <ModalBox label="Find and replace" wide @close="emit('close')">
    <form @submit.prevent="view ? apply() : look()">
      <h2>Find and replace in {{ count(total) }} {{ plural }}</h2>
      <label class="row"><span>In</span><PickOne v-model="column" :options="options" aria-label="In" /></label>
      <label class="row"><span>Find</span><TextBox id="find-text" v-model="find" required /></label>
      <label class="row"><span>Put instead</span><TextBox v-model="replace" aria-label="Put instead" /></label>
      <div v-if="view" class="lines">
        <p>{{ view.count }} would change</p>
        <p v-for="(c, i) in view.cells" :key="i" class="tiny">
          <span class="mono">{{ c.before }} → {{ c.after }}</span> <span class="dim">{{ c.path }}</span>
        </p>
      </div>
      <p class="acts">
        <NButton type="primary" attr-type="submit" :disabled="view?.count === 0">{{ view ? `Replace in ${view.count}` : 'See what would change' }}</NButton>
        <NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>

<style scoped>
.lines {
  max-height: 46vh;
  overflow: auto;
}
</style>
