<script setup lang="ts">
import { ref } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** The points that have no source yet, to be dragged, typed or fitted onto terminals. */
const props = defineProps<{ panel: Schemas['Panel']; may: boolean }>()
const emit = defineEmits<{ place: [pointId: string, terminal: string]; fit: [] }>()
const attempt = useDo()
const typed = ref('')
/** “kiln temp UI3”: the last word is the terminal, the rest words of the point. */
const placeTyped = () =>
  attempt(async () => {
    const words = typed.value.trim().split(/\s+/)
    const onto = words.pop() ?? ''
    const said = words.join(' ')
    const found = said ? await get('/controllers/{id}/panel', { path: { id: props.panel.controller.id }, query: { words: said } }) : null
    const [one, ...others] = found?.unplaced ?? []
    if (!one) throw new Error(`No point without a source has the words “${said}”. Type words of a point, then the terminal: room temperature UI3.`)
    if (others.length) {
      const some = [one, ...others].slice(0, 3).map((r) => `${r.owner} ${r.point.name}`)
      throw new Error(`${others.length + 1}${found!.moreUnplaced ? ' and more' : ''} points match: ${some.join(', ')}… Type one more word.`)
    }
    emit('place', one.point.id, /^value$/i.test(onto) ? 'value' : onto.toUpperCase())
    typed.value = ''
  })
const drag = (e: DragEvent, id: string) => e.dataTransfer?.setData('text/plain', id)
</script>

<template>
  <div class="sheet unplaced">
    <div class="head">
      <h2>Without a source</h2>
      <FactTag :tone="panel.unplaced.length ? 'amber' : null">{{ panel.moreUnplaced ? `over ${panel.unplaced.length}` : panel.unplaced.length }}</FactTag>
    </div>
    <p v-if="!panel.unplaced.length" class="dim">✓ Every point of this building has a source.</p>
    <template v-else-if="may">
      <p><NButton id="fit" type="primary" @click="emit('fit')">Fit the points…</NButton></p>
      <form class="type" @submit.prevent="placeTyped">
        <TextBox id="type-terminal" v-model="typed" mono placeholder="room temperature UI3" aria-label="Type words of a point and a terminal" /><NButton
          attr-type="submit"
          >Put</NButton
        >
      </form>
    </template>
    <p v-if="panel.moreUnplaced" class="dim">The nearest {{ panel.unplaced.length }} are listed; words of any other find it too.</p>
    <p v-for="r in panel.unplaced" :key="r.point.id" class="card" draggable="true" :title="r.path" @dragstart="drag($event, r.point.id)">
      <b>{{ r.point.name }}</b> <span class="dim">{{ r.owner }}</span><NButton
        v-if="may && r.isForMemory"
        size="small"
        @click="emit('place', r.point.id, 'value')"
        >To memory</NButton
      >
    </p>
  </div>
</template>

<style scoped>
.unplaced {
  max-height: 440px;
  overflow: auto;
  display: grid;
  gap: 5px;
}
.type {
  display: flex;
  gap: 6px;
}
.card {
  border: 1px solid var(--rule);
  border-radius: 6px;
  padding: 2px 8px;
  cursor: grab;
  display: flex;
  gap: 6px;
  align-items: center;
}
.card .dim {
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
