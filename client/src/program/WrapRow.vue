<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'
import type { SequenceWork } from './useSequence'

/** Puts a block behind what is picked: whoever read that reads the new block from then on. */
const props = defineProps<{ work: SequenceWork }>()
const { s, picked, types } = props.work
const attempt = useDo()
const kind = ref<string | null>(null)
const kinds = computed(() =>
  [...types.value.values()].filter((t) => t.inputs.length && !t.isRetired && !t.isInner).map((t) => ({ value: t.kind as string, label: t.name })),
)
const wrap = (chosen: string) =>
  attempt(async () => {
    const blocks = picked.value.filter((p) => !p.startsWith('o:'))
    const made = await post('/sequences/{id}/wrap', { path: { id: s.value!.id }, body: { blocks, kind: chosen as Schemas['BlockKind'] } })
    if (await props.work.save(made.sequence, `Put ${types.value.get(chosen)!.name} behind what was picked`)) picked.value = made.blockId ? [made.blockId] : []
    kind.value = null
  })
</script>

<template>
  <div class="row wrap">
    <span class="dim">Behind it</span>
    <PickOne
      v-model="kind"
      :options="kinds"
      size="small"
      placeholder="a block that takes what it gives…"
      aria-label="Block to put behind it"
      @update:model-value="wrap"
    />
  </div>
</template>

<style scoped>
.wrap {
  display: grid;
  grid-template-columns: 70px 1fr;
  align-items: center;
  gap: 6px;
  margin: 6px 0;
}
</style>
