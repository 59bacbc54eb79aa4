<script setup lang="ts" generic="T extends { key: string; label: string; sub?: string | null }">
import { ref, watch } from 'vue'
import { stepTo } from './records'
import TextBox from './TextBox.vue'

/**
 * A box of words that finds things to choose from; Enter takes the one that is marked, even where it was typed faster than the
 * answer came. What is typed stands for nothing until one is chosen: it says so ('keep'), or goes back to what stood ('revert'),
 * or is ready for the next one ('clear').
 */
defineOptions({ inheritAttrs: false })
const props = withDefaults(
  defineProps<{
    find: (words: string) => Promise<T[]> | T[]
    says?: string
    after?: 'keep' | 'revert' | 'clear'
    placeholder?: string
    disabled?: boolean
    /** Shows what there is before anything is typed. */
    atOnce?: boolean
    none?: string
    place?: 'bottom-start' | 'top-start'
  }>(),
  { says: '', after: 'keep', none: 'Nothing has these words. Try fewer.', place: 'bottom-start' },
)
const emit = defineEmits<{ choose: [item: T | null] }>()
const box = ref<InstanceType<typeof TextBox>>()
const listId = `list-${Math.random().toString(36).slice(2)}`
const text = ref(props.says)
const items = ref<T[]>([]) as { value: T[] }
const at = ref(0)
const open = ref(false)
const chosen = ref(!!props.says)
watch(
  () => props.says,
  (says) => ([text.value, chosen.value] = [says, !!says]),
)
let turn = 0
/** The words that what is listed was found by; the answer to what was typed since may still be on its way. */
const foundFor = ref('')
/** Why nothing could be looked for, where that is so. */
const trouble = ref('')
async function search(): Promise<T[]> {
  const mine = ++turn
  open.value = true
  const asked = text.value
  let found: T[] = []
  let wrong = ''
  try {
    if (asked.trim() || props.atOnce) found = await props.find(asked)
  } catch (e) {
    wrong = (e as Error).message
  }
  if (mine === turn) [items.value, at.value, foundFor.value, trouble.value] = [found, 0, asked, wrong]
  return found
}
function type(words: string) {
  text.value = words
  if (props.after === 'keep') emit('choose', null)
  chosen.value = false
  void search()
}
function choose(item: T | undefined) {
  if (!item) return
  turn++
  open.value = false
  chosen.value = true
  text.value = props.after === 'clear' ? '' : item.sub && props.after === 'keep' ? `${item.sub} › ${item.label}` : item.label
  items.value = []
  emit('choose', item)
}
function leave() {
  open.value = false
  if (props.after === 'revert') text.value = props.says
  if (props.after === 'clear') text.value = ''
}
async function key(e: KeyboardEvent) {
  const next = stepTo(e.key, at.value, items.value.length)
  if (e.key === 'Enter') {
    if (chosen.value && props.after === 'keep') return
    if (!text.value.trim() && props.after === 'revert') emit('choose', null)
    else if (text.value.trim() || props.atOnce) {
      e.preventDefault()
      e.stopPropagation()
      // What was meant is what these words find, whatever is typed before they are found.
      choose(items.value.length && foundFor.value === text.value ? items.value[at.value] : (await search())[0])
      return
    }
  } else if (e.key === 'Escape' && open.value) leave()
  else if (['ArrowDown', 'ArrowUp'].includes(e.key) && open.value) at.value = next
  else return
  e.preventDefault()
  e.stopPropagation()
}
function enter() {
  if (props.after === 'revert') box.value?.select()
  if (props.atOnce) void search()
}
defineExpose({ focus: () => box.value?.focus() })
</script>

<template>
  <NPopover
    :show="open && (!!items.length || !!text.trim())"
    trigger="manual"
    :placement="place"
    :show-arrow="false"
    style="padding: 4px; max-width: min(560px, 92vw)"
  >
    <template #trigger>
      <TextBox
        v-bind="$attrs"
        ref="box"
        :class="$attrs.class"
        :style="$attrs.style as string"
        :model-value="text"
        :placeholder="placeholder ?? 'words of its name or place'"
        :disabled="disabled"
        role="combobox"
        aria-autocomplete="list"
        autocomplete="off"
        :aria-expanded="open && !!items.length"
        :aria-controls="open && items.length ? listId : undefined"
        :aria-activedescendant="open && items.length ? `${listId}-${at}` : undefined"
        @update:model-value="type"
        @keydown="key"
        @focus="enter"
        @blur="leave"
        ><template v-if="after === 'keep' && text.trim() && !chosen && !open" #suffix
          ><span class="wrong tiny" title="Take one from the list that comes up, or empty this.">Not chosen yet</span></template
        ></TextBox
      >
    </template>
    <div :id="listId" role="listbox" aria-label="Found" class="found">
      <div
        v-for="(item, i) in items"
        :id="`${listId}-${i}`"
        :key="item.key"
        role="option"
        :aria-selected="i === at"
        :class="{ on: i === at }"
        @mousedown.prevent="choose(item)"
      >
        <b>{{ item.label }}</b> <span class="dim">{{ item.sub }}</span>
      </div>
    </div>
    <span v-if="!items.length" class="dim">{{ foundFor !== text ? 'looking…' : trouble || none }}</span>
  </NPopover>
</template>

<style scoped>
.found {
  max-height: 260px;
  overflow: auto;
}
.found > div {
  padding: 3px 8px;
  border-radius: 5px;
  cursor: pointer;
  white-space: nowrap;
}
.found .on {
  background: var(--plum-soft);
}
</style>
