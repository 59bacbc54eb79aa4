<script setup lang="ts">
import { ref } from 'vue'
import { get, type Schemas } from '../api/http'
import ComboBox from './ComboBox.vue'

/** Finds one record of certain sorts by words of its name or place, wherever it is; with `for-many` it is ready for the next one after each. */
const props = defineProps<{
  nouns: string
  says?: string
  disabled?: boolean
  placeholder?: string
  forMany?: boolean
  /** Goes back to what stood where nothing is chosen; emptied and entered, it stands for none. */ reverts?: boolean
}>()
const emit = defineEmits<{ choose: [hit: Schemas['Hit'] | null] }>()
const box = ref<{ focus: () => void }>()
const find = async (words: string) =>
  (await get('/find', { query: { nouns: props.nouns, q: words } }).catch(() => [])).map((hit) => ({ key: hit.id, label: hit.name, sub: hit.path, hit }))
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <ComboBox
    ref="box"
    :find="find"
    :says="says"
    :disabled="disabled"
    :placeholder="placeholder"
    :after="forMany ? 'clear' : reverts ? 'revert' : 'keep'"
    @choose="(item) => emit('choose', item?.hit ?? null)"
  />
</template>
