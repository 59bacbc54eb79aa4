<script setup lang="ts">
import { post } from '../shared/api/http'
import type { Source } from '../shared/api/records'

/** An input where a source is typed: words of a point, schedule or block, or a constant such as 29 °C or on; emptied, it is taken off. */
const props = defineProps<{ sequenceId: string; says: string; disabled?: boolean; label: string; placeholder?: string }>()
const emit = defineEmits<{ choose: [source: Source | null] }>()
const find = async (text: string) =>
  (await post('/sequences/{id}/sources', { path: { id: props.sequenceId }, body: { text } })).map((g, i) => ({
    key: `${i}`,
    label: g.name,
    sub: g.path,
    source: g.source,
  }))
</script>

<template>
  <ComboBox
    :find="find"
    :says="says"
    :disabled="disabled"
    after="revert"
    at-once
    :aria-label="label"
    :placeholder="placeholder ?? 'type a source'"
    none="Nothing has these words. Try fewer, or a constant such as 29 °C."
    @choose="(item) => emit('choose', item?.source ?? null)"
  />
</template>
