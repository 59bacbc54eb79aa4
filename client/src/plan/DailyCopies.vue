<script setup lang="ts">
import { ref, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { post } from '../shared/api/http'
import { when } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** Where each day's copies of all open projects go. */
const store = useStore()
const attempt = useDo()
const { value: copies, reload } = useShown('/daily-copies', () => ({}), [])
const folder = ref('')
const days = ref<number | null>(null)
watch(copies, (c) => c && ([folder.value, days.value] = [c.folder ?? '', c.keepDays]), { immediate: true })
async function set() {
  const body = { folder: folder.value.trim(), keepDays: days.value ?? 0 }
  await attempt(() => post('/daily-copies', { body }), body.folder ? 'Copies were written, and will be each day' : 'No daily copies any more')
  await reload()
}
</script>

<template>
  <form v-if="copies" class="sheet copies" @submit.prevent="set">
    <h2>Daily copies</h2>
    <p class="dim">Each day’s project file of every open project, written into a folder on the server. Empty for none.</p>
    <span>Folder</span>
    <TextBox
      id="copy-folder"
      v-model="folder"
      mono
      style="width: 340px"
      :disabled="!store.may('administrator')"
      placeholder="/srv/copies"
      spellcheck="false"
      aria-label="Folder"
    />
    <span>the newest</span>
    <NumberBox v-model="days" :width="70" :disabled="!store.may('administrator')" aria-label="How many copies of each project are kept" />
    <span>of each project stay</span>
    <NButton v-if="store.may('administrator')" attr-type="submit">Set, and write today’s</NButton>
    <span v-else class="dim">An administrator sets this.</span>
    <p v-if="copies.problem" class="wrong" role="alert">{{ copies.problem }}</p>
    <p v-else-if="copies.lastAt" class="dim">✓ {{ copies.lastCount }} written {{ when(copies.lastAt) }}</p>
  </form>
</template>

<style scoped>
.copies {
  display: flex;
  gap: 10px;
  align-items: center;
  flex-wrap: wrap;
}
.copies > h2,
.copies > p {
  width: 100%;
}
</style>
