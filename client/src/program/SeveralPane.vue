<script setup lang="ts">
import { ref } from 'vue'
import { post } from '../shared/api/http'
import { useDo } from '../shared/useDo'
import type { Pasting } from './usePasting'
import type { SequenceWork } from './useSequence'
import WrapRow from './WrapRow.vue'

/** What can be done with several parts that are picked: doubled, deleted, or blocks taken together as one of one's own. */
const props = defineProps<{ work: SequenceWork; pasting: Pasting }>()
const { s, may, picked } = props.work
const attempt = useDo()
const name = ref('')
const together = () =>
  attempt(async () => {
    const blocks = picked.value.filter((p) => !p.startsWith('o:'))
    const made = await post('/sequences/{id}/together', { path: { id: s.value!.id }, body: { blocks, name: name.value.trim() } })
    if (await props.work.save(made.sequence, `Took ${blocks.length} blocks together as ‘${name.value.trim()}’`)) {
      picked.value = made.blockId ? [made.blockId] : []
      name.value = ''
    }
  })
</script>

<template>
  <h2>{{ picked.length }} selected</h2>
  <template v-if="may">
    <p class="acts">
      <NButton size="small" @click="work.duplicate">Duplicate</NButton><NButton size="small" title="Ctrl C" @click="pasting.copy">Copy</NButton
      ><NButton size="small" @click="work.remove">Delete</NButton>
    </p>
    <WrapRow :work="work" />
    <h3>Own block</h3>
    <p class="dim tiny">The picked blocks as one, with pins for what comes in and goes out. It can stand in other sequences too.</p>
    <TextBox
      id="own-name"
      :model-value="name"
      maxlength="60"
      placeholder="its name"
      aria-label="Name of the own block"
      @update:model-value="(t: string) => (name = t)"
    />
    <p class="acts"><NButton id="together" size="small" :disabled="!name.trim()" @click="together">Take together</NButton></p>
  </template>
</template>
