<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'

/** The modules of a controller on their rails, terminal by terminal, each with the point on it and how it is. */
type Terminal = Schemas['PanelTerminal']
const props = defineProps<{ terminals: readonly Terminal[]; readings: ReadonlyMap<string, Schemas['TerminalReading']>; chosen: string | null }>()
const emit = defineEmits<{ choose: [terminal: string]; drop: [pointId: string, terminal: string]; remove: [terminal: Terminal] }>()
const root = ref<HTMLElement>()
const groups = computed(() => {
  const map = new Map<string, Terminal[]>()
  for (const t of props.terminals) map.set(t.group, [...(map.get(t.group) ?? []), t])
  return [...map]
})
const signals = (list: readonly Terminal[]) => [...new Set(list.flatMap((t) => t.signals.map((s) => s.name)))].join(', ')
const stateOf = (t: Terminal) => (!t.fitting ? 'spare' : props.readings.get(t.terminal)?.trouble ? 'trouble' : 'ok')
const marks = { ok: '', trouble: '✕', spare: '' }
function key(e: KeyboardEvent, t: Terminal) {
  const step = { ArrowRight: 1, ArrowLeft: -1 }[e.key]
  if (step) root.value?.querySelector<HTMLElement>(`[data-terminal="${props.terminals[props.terminals.indexOf(t) + step]?.terminal}"]`)?.focus()
  else if (e.key === 'Delete') emit('remove', t)
  else return
  e.preventDefault()
}
function drop(e: DragEvent, t: Terminal) {
  const id = e.dataTransfer?.getData('text/plain')
  if (id) emit('drop', id, t.terminal)
}
</script>

<template>
  <div ref="root" class="rails">
    <div v-for="[name, list] in groups" :key="name" class="module">
      <div class="cap">
        <b>{{ name }}</b><span class="dim">{{ signals(list) }}</span>
      </div>
      <div class="strip">
        <BareButton
          v-for="t in list"
          :key="t.terminal"
          :class="['terminal', stateOf(t), { on: chosen === t.terminal }]"
          :data-terminal="t.terminal"
          :title="t.point ? `${t.path} › ${t.point.name}` : `${t.terminal} is spare`"
          @click="emit('choose', t.terminal)"
          @focus="emit('choose', t.terminal)"
          @keydown="key($event, t)"
          @dragover.prevent
          @drop.prevent="drop($event, t)"
        >
          <span class="mono">{{ t.terminal }}</span><span class="screw" role="img" :aria-label="stateOf(t)">{{ marks[stateOf(t)] }}</span
          ><span class="wire"
            ><template v-if="t.point"
              ><b>{{ t.path?.split(' › ').at(-1) }}</b
              ><br />{{ t.point.name }}</template
            ><template v-else>spare</template></span
          >
        </BareButton>
      </div>
    </div>
  </div>
</template>

<style scoped>
.rails {
  background: repeating-linear-gradient(var(--sunk) 0 112px, var(--rule) 112px 124px, var(--sunk) 124px 248px);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 14px;
  display: flex;
  flex-wrap: wrap;
  gap: 14px 12px;
}
.module {
  background: var(--sheet);
  border: 1px solid var(--ink-3);
  border-radius: 6px;
  height: 220px;
  display: flex;
  flex-direction: column;
}
.cap {
  padding: 5px 10px;
  border-bottom: 1px solid var(--rule);
  display: grid;
  text-align: center;
  font-size: 13px;
}
.cap .dim {
  font-size: 11.5px;
}
.strip {
  display: flex;
  flex: 1;
  min-height: 0;
}
.terminal {
  border-right: 1px dotted var(--rule);
  width: 43px;
  padding: 6px 0;
  display: flex;
  flex-direction: column;
  align-items: center;
  gap: 5px;
  font-size: 12px;
  min-height: 0;
}
.terminal:last-child {
  border-right: 0;
}
.terminal.on {
  background: var(--plum-soft);
}
.screw {
  width: 16px;
  height: 16px;
  border-radius: 4px;
  border: 2px solid var(--ink-3);
  flex: none;
  font-size: 10px;
  line-height: 12px;
}
.ok .screw {
  background: var(--moss);
  border-color: var(--moss);
}
.trouble .screw {
  border-color: var(--crimson);
  color: var(--crimson);
  font-weight: 700;
}
.spare .screw {
  border-style: dashed;
}
.wire {
  writing-mode: vertical-rl;
  line-height: 1.15;
  font-size: 11.5px;
  max-width: 36px;
  transform: rotate(180deg);
  flex: 1;
  min-height: 0;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
  text-align: left;
}
.spare .wire {
  color: var(--ink-2);
  font-style: italic;
}
</style>
