<script setup lang="ts">
import { computed, ref } from 'vue'
import { change, type RecordType } from '../api/records'
import { useStore } from '../store'
import { useDo } from '../useDo'

/** Two people changed the same record: both versions side by side, and a choice for every field. */
const store = useStore()
const attempt = useDo()
const mine = ref(new Set<string>())
const shown = computed(() => store.conflicts[0]!)
type Record = { id: string; name: string; type: RecordType } & { [field: string]: unknown }
const theirs = computed(() => shown.value.theirs as Record | null)
const yours = computed(() => shown.value.yours as Record | null)
const fields = computed(() => [...new Set(shown.value.fields.map((f) => f.field))])
function toggle(field: string) {
  if (!mine.value.delete(field)) mine.value.add(field)
  mine.value = new Set(mine.value)
}
function next() {
  mine.value = new Set()
  store.conflicts = store.conflicts.slice(1)
}
async function use(which: Set<string>) {
  const { theirRevision } = shown.value
  const merged: Record | null = theirs.value && yours.value ? { ...theirs.value } : yours.value
  if (theirs.value && yours.value && merged)
    for (const field of which) {
      if (field in yours.value) merged[field] = yours.value[field]
      else delete merged[field]
    }
  const edit = merged ? { put: merged as never, from: theirRevision } : { remove: shown.value.recordId, from: theirRevision }
  next()
  await attempt(() => change([edit as never]), 'Saved your choice')
}
</script>

<template>
  <ModalBox label="Changed meanwhile" alert wide @close="next">
    <h2>Somebody else changed ‘{{ (theirs ?? yours)?.name ?? shown.recordId }}’ since you saw it</h2>
    <template v-if="theirs && yours">
      <p class="dim">Nothing is lost yet. Tick what should be as you made it; the rest stays as theirs.</p>
      <NTable size="small" :single-line="true" :bordered="false">
        <thead>
          <tr>
            <th></th>
            <th>Field</th>
            <th>Theirs</th>
            <th>Yours</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="f in shown.fields" :key="f.words">
            <td><NCheckbox :checked="mine.has(f.field)" :aria-label="`Use yours for ${f.words}`" @update:checked="toggle(f.field)" /></td>
            <td>{{ f.words }}</td>
            <td :class="{ off: mine.has(f.field) }">{{ f.before ?? 'nothing' }}</td>
            <td :class="{ off: !mine.has(f.field) }">{{ f.after ?? 'nothing' }}</td>
          </tr>
        </tbody>
      </NTable>
    </template>
    <p v-else-if="!theirs">They have removed it. You may put your version back, or let it go.</p>
    <p v-else>You removed it, while they changed it. It is still there.</p>
    <p class="acts">
      <NButton @click="next">{{ theirs ? 'Keep theirs' : 'Let it go' }}</NButton>
      <NButton v-if="theirs && yours" @click="use(new Set(fields))">Use all of yours</NButton>
      <NButton type="primary" v-if="theirs && yours" :disabled="!mine.size" @click="use(mine)">Save as ticked</NButton>
      <NButton type="primary" v-else @click="use(new Set())">{{ yours ? 'Put mine back' : 'Remove it all the same' }}</NButton>
      <span v-if="store.conflicts.length > 1" class="dim">{{ store.conflicts.length - 1 }} more after this</span>
    </p>
  </ModalBox>
</template>

<style scoped>
td {
  word-break: break-word;
}
.off {
  color: var(--ink-2);
  text-decoration: line-through;
}
</style>
