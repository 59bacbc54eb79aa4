<script setup lang="ts">
import { ref } from 'vue'
import { api, post, type Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The whole project as a file: saved, or read and looked at before it is taken. */
const store = useStore()
const attempt = useDo()
const file = ref<{ blob: File; view: Schemas['ProjectFileView'] } | null>(null)
const read = (blob: File) => attempt(async () => (file.value = { blob, view: await post('/project/file', { body: blob }) }))
async function take() {
  if (await attempt(() => post('/project/file', { query: { take: true }, body: file.value!.blob }), 'Taken as one change; undo brings back what was'))
    file.value = null
}
</script>

<template>
  <LinkButton size="small" :href="api('/project/file')">Save as a file</LinkButton>
  <FilePick v-if="store.may('engineer')" label="Read a project file" size="small" @choose="read" />
  <ModalBox v-if="file" label="The project file" wide @close="file = null">
    <h2>{{ file.view.name || 'A project without a name' }}, revision {{ file.view.revision }}</h2>
    <p>
      {{ count(file.view.records) }} records. Taking it adds {{ count(file.view.added) }}, changes {{ count(file.view.changed) }} and removes
      {{ count(file.view.removed) }} here.
    </p>
    <p v-for="p in file.view.problems" :key="p" class="bar high">✕ {{ p }}</p>
    <p v-for="p in file.view.leftOut.slice(0, 20)" :key="p" class="bar medium">▲ would be left out: {{ p }}</p>
    <p class="acts">
      <NButton type="primary" @click="take">{{ file.view.problems.length ? 'Take what can be saved' : 'Take it' }}</NButton><NButton @click="file = null"
        >Leave</NButton
      >
    </p>
  </ModalBox>
</template>
