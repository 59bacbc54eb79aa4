<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** The logic broken on purpose, one thing at a time: what of it the tests notice, and what they let pass. */
const props = defineProps<{ sequenceId: string; say: (id: string) => string }>()
const emit = defineEmits<{ show: [ids: string[]] }>()
const attempt = useDo()
const found = ref<Schemas['BreakingView'] | null>(null)
const busy = ref(false)
const left = computed(() => (found.value?.ways ?? []).filter((w) => !w.caughtBy))
const share = computed(() => (found.value?.ways.length ? Math.round((100 * (found.value.ways.length - left.value.length)) / found.value.ways.length) : 0))
async function go() {
  busy.value = true
  await attempt(async () => (found.value = await post('/sequences/{id}/tests/break', { path: { id: props.sequenceId } })))
  busy.value = false
}
</script>

<template>
  <div class="breaking">
    <p class="acts">
      <NButton id="break" size="small" :loading="busy" @click="go">Break it on purpose</NButton>
      <span v-if="!found" class="dim">one thing at a time, on the bench: settings, choices, connections, claims. What no test notices is not proven.</span>
      <FactTag v-else :tone="share >= 90 ? 'moss' : 'amber'">{{ share }} % noticed: {{ found.ways.length - left.length }} of {{ found.ways.length }}</FactTag>
      <span v-if="found && !found.all" class="dim">not all ways were tried: it took too long</span>
    </p>
    <ul v-if="left.length" aria-label="What no test notices">
      <li v-for="w in left" :key="w.of + w.what">
        ▲ <NButton text type="info" title="Show it in the diagram" @click="emit('show', [w.of])">{{ say(w.of) }}</NButton>: {{ w.what }}
        <span class="dim">– no test notices</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
ul {
  margin: 0;
  padding-left: 4px;
  list-style: none;
}
</style>
