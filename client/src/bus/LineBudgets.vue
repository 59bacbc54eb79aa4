<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The lines side by side: devices, current and cable against what a line carries; choosing one shows its devices alone. */
const props = defineProps<{ lines: Schemas['LineLine'][]; modelValue: string | null }>()
const emit = defineEmits<{ 'update:modelValue': [line: string | null] }>()
const store = useStore()
const attempt = useDo()
const adding = ref(false)
const name = ref('')
const number = ref('')
const metres = ref<number | null>(null)
const choose = (id: string) => emit('update:modelValue', props.modelValue === id ? null : id)
async function add() {
  const [area, line] = number.value.split('.').map((n) => (/^\d+$/.test(n.trim()) ? Number(n) : NaN))
  const done = await attempt(() => {
    if (area === undefined || line === undefined || Number.isNaN(area) || Number.isNaN(line))
      throw new Error(`‘${number.value}’ is no line. Write area and line with a point between, such as 1.2.`)
    return change([put('busLine', { id: newId('line'), name: name.value.trim(), area, line, lengthMetres: metres.value ?? 0 }, 0)])
  })
  if (done) [adding.value, name.value, number.value, metres.value] = [false, '', '', null]
}
</script>

<template>
  <div class="lines">
    <div v-for="l in lines" :key="l.line.id" class="sheet line" :class="{ on: modelValue === l.line.id }">
      <BareButton class="named" :aria-pressed="modelValue === l.line.id" :data-line="l.written" @click="choose(l.line.id)"
        ><b class="mono">{{ l.written }}</b> {{ l.line.name }}</BareButton
      >
      <span class="budget"><FillBar :used="l.devices" :of="l.mostDevices" /> devices</span>
      <span v-if="l.given" class="budget"><FillBar :used="l.drawn" :of="l.given" /> mA</span>
      <span v-else-if="l.drawn" class="wrong">✕ {{ l.drawn }} mA and no supply</span>
      <span v-if="l.againPerSecond" class="budget" :title="`Said again and again though nothing happens; a quarter of what the line carries is enough for it`"
        ><FillBar :used="Math.round(l.againPerSecond * 10) / 10" :of="l.mostPerSecond" /> cyclic telegrams/s</span
      >
      <NButton text size="tiny" :title="`Dossier of line ${l.written}`" @click="store.selected = l.line.id"
        ><span :class="{ wrong: l.findings }">{{ l.findings ? `▲ ${l.findings}` : '✓ well' }}</span></NButton
      >
    </div>
    <NButton v-if="store.may('engineer')" id="add-line" @click="adding = true">Add a line…</NButton>
    <ModalBox v-if="adding" label="Add a line" @close="adding = false">
      <form @submit.prevent="add">
        <h2>Add a line</h2>
        <label class="row"><span>Number</span><TextBox id="line-number" v-model="number" mono required placeholder="1.2" /></label>
        <label class="row"><span>Name</span><TextBox id="line-name" v-model="name" required maxlength="80" placeholder="Gallery and shop" /></label>
        <label class="row"><span>Cable</span><NumberBox id="line-metres" v-model="metres" unit="m" /></label>
        <p class="dim">The first part is the area, the second the line; 1.0 is the main line of area 1.</p>
        <p class="acts"><NButton id="line-do" type="primary" attr-type="submit">Add it</NButton><NButton @click="adding = false">Leave</NButton></p>
      </form>
    </ModalBox>
  </div>
</template>

<style scoped>
.lines {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
  align-items: center;
  margin-bottom: 8px;
  /* Many lines leave room for their devices below. */
  max-height: 30vh;
  overflow-y: auto;
}
.line {
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 6px 12px;
}
.line.on {
  background: var(--plum-soft, var(--sunk));
}
.budget {
  display: flex;
  gap: 4px;
  align-items: center;
  font-size: 12px;
}
.named {
  text-align: left;
}
</style>
