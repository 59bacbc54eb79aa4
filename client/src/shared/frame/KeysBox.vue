<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { pages, type Page } from '../../pages'

/** The keys of the page one is on, and those of every page. */
const emit = defineEmits<{ close: [] }>()
const route = useRoute()
const page = computed(() => route.meta.page as Page | undefined)
const everywhere: [string, string][] = [
  ['Ctrl K', 'find or do anything'],
  ['Ctrl Z, Ctrl Y', 'undo, redo'],
  ['Esc', 'close what is open'],
  ['?', 'these keys'],
]
const goes = pages.filter((p) => p.go).map((p): [string, string] => [`g ${p.go}`, p.phase && p.title !== p.phase ? `${p.title} (${p.phase})` : p.title])
const groups = computed(() => [
  ...(page.value?.keys?.length ? [{ title: page.value.title, keys: page.value.keys }] : []),
  { title: 'Everywhere', keys: everywhere },
  { title: 'Go to', keys: goes },
])
</script>

<template>
  <ModalBox label="Keys" wide @close="emit('close')">
    <h2>Keys</h2>
    <div class="groups">
      <section v-for="g in groups" :key="g.title">
        <h3>{{ g.title }}</h3>
        <p v-for="[keys, what] in g.keys" :key="keys">
          <kbd>{{ keys }}</kbd> <span>{{ what }}</span>
        </p>
      </section>
    </div>
    <p class="acts"><NButton type="primary" @click="emit('close')">Close</NButton></p>
  </ModalBox>
</template>

<style scoped>
.groups {
  columns: 2;
}
section {
  break-inside: avoid;
  margin-bottom: 12px;
}
p {
  display: flex;
  gap: 8px;
  margin: 3px 0;
  align-items: baseline;
}
kbd {
  white-space: nowrap;
}
</style>
