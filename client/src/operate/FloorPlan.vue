<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import type { Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { boxOf, neighbour, widthAt, type Look } from './floor'

/** The rooms of a floor, drawn from their outlines, each with its name, what it reads and what wants somebody. */
type Room = Schemas['FloorRoom']
const props = defineProps<{ rooms: readonly Room[]; looks: ReadonlyMap<string, Look & { state: string }>; floor: string }>()
const store = useStore()
const drawn = computed(() => props.rooms.filter((r) => r.outline.length >= 3))
const box = computed(() => boxOf(drawn.value))
const plan = ref<HTMLElement>()
/** How many times larger than the page the plan is drawn; the rest is reached by scrolling. */
const zoom = ref(1)
const zooms = [1, 1.5, 2, 3, 4]
const nearer = (by: 1 | -1) => (zoom.value = zooms[zooms.indexOf(zoom.value) + by] ?? zoom.value)
const { width: planWidth } = useElementSize(plan)
/** Letter height in metres: as large as the room allows, but on any screen no more than fits the eye. */
const ideal = () => (box.value.w / (Math.max(200, planWidth.value) * zoom.value)) * 17
const fit = (r: Room) => Math.min(ideal(), r.labelRadius / 2.1, (widthAt(r) * 1.55) / Math.max(10, r.name.length))
/** A long, low floor is drawn so large that its names can be read, as far as the page is high; the rest is reached by scrolling. */
watch([() => props.floor, () => drawn.value.length, () => planWidth.value > 0], () => {
  zoom.value = 1
  if (planWidth.value < 500 || !drawn.value.length) return
  const scale = planWidth.value / box.value.w
  const letters = drawn.value.map((r) => fit(r) * scale).sort((a, b) => a - b)[Math.floor(drawn.value.length / 2)]!
  const fits = zooms.filter((z) => box.value.h * scale * z <= window.innerHeight - 260)
  zoom.value = fits.find((z) => letters * z >= 9.5) ?? fits.at(-1) ?? 1
})
const said = (r: Room) => {
  const l = props.looks.get(r.id)
  return `${r.name} ${l?.value ?? ''} ${l?.sub ?? ''} ${l?.state ?? ''}`.trim()
}
/** Letter height of a label in one line, for a room too low for three: null when three lines read better. */
function line(r: Room) {
  const size = Math.min(ideal(), r.labelRadius * 1.3, widthAt(r) / (said(r).length * 0.62))
  return size > fit(r) * 1.15 ? size : null
}
const labels = computed(() =>
  drawn.value.map((r) => ({ r, look: props.looks.get(r.id), line: line(r), fit: fit(r), points: r.outline.map((c) => `${c.x},${c.y}`).join(' ') })),
)
const steps: Record<string, [number, number]> = { ArrowRight: [1, 0], ArrowLeft: [-1, 0], ArrowDown: [0, 1], ArrowUp: [0, -1] }
function key(e: KeyboardEvent, id: string) {
  const step = steps[e.key]
  if (step) {
    const to = neighbour(drawn.value, id, ...step)
    plan.value?.querySelector<SVGElement>(`[data-room="${to}"]`)?.focus()
  } else if (e.key === 'Enter' || e.key === ' ') store.selected = id
  else return
  e.preventDefault()
}
</script>

<template>
  <div ref="plan" class="sheet floor">
    <span v-if="drawn.length" class="zoom" role="group" aria-label="Size of the plan"
      ><NButton size="tiny" aria-label="Smaller" :disabled="zoom === 1" @click="nearer(-1)">−</NButton
      ><NButton size="tiny" aria-label="Larger" :disabled="zoom === zooms.at(-1)" @click="nearer(1)">+</NButton
      ><NButton v-if="zoom > 1" size="tiny" @click="zoom = 1">Whole floor</NButton></span
    >
    <svg
      v-if="drawn.length"
      :viewBox="`${box.x} ${box.y} ${box.w} ${box.h}`"
      class="plan"
      :style="zoom > 1 ? { width: `${zoom * 100}%`, maxHeight: 'none' } : {}"
      role="group"
      aria-label="Floor"
    >
      <defs>
        <pattern id="hatch" width="0.5" height="0.5" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
          <rect width="0.5" height="0.5" fill="var(--sunk)" />
          <line x1="0" y1="0" x2="0" y2="0.5" stroke="var(--rule)" stroke-width="0.22" />
        </pattern>
      </defs>
      <g
        v-for="{ r, look, line: one, fit: size, points } in labels"
        :key="r.id"
        class="room"
        :class="{ on: store.selected === r.id }"
        tabindex="0"
        role="button"
        :aria-label="said(r)"
        :data-room="r.id"
        @click="store.selected = r.id"
        @keydown="key($event, r.id)"
      >
        <polygon :points="points" :fill="look?.fill" />
        <text v-if="one" :x="r.label.x" :y="r.label.y" :font-size="one" dominant-baseline="central" class="name">
          {{ r.name }}
          <tspan class="value">{{ look?.value }}</tspan>
          <tspan class="sub">{{ look?.sub }} {{ look?.state }}</tspan>
        </text>
        <template v-else>
          <text :x="r.label.x" :y="r.label.y - size * 0.75" :font-size="size" class="name">{{ `${r.name} ` }}</text>
          <text :x="r.label.x" :y="r.label.y + size * 0.4" :font-size="size * 0.98" class="value">{{ `${look?.value ?? ''} ` }}</text>
          <text :x="r.label.x" :y="r.label.y + size * 1.4" :font-size="size * 0.8" class="sub">{{ look?.sub }} {{ look?.state }}</text>
        </template>
      </g>
    </svg>
    <div v-else class="empty">
      <h2>No outlines yet</h2>
      <p>
        The rooms of this floor have no outline. <RouterLink v-if="store.may('engineer')" :to="`/draw/${floor}`">Draw them</RouterLink>; until then they are
        listed here.
      </p>
      <p class="acts">
        <NButton v-for="r in rooms" :key="r.id" :data-room="r.id" @click="store.selected = r.id">{{ r.name }} {{ looks.get(r.id)?.value }}</NButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
.floor {
  padding: 10px;
  overflow: auto;
  max-height: calc(100vh - 225px);
  position: relative;
}
.zoom {
  position: sticky;
  left: 0;
  display: inline-flex;
  gap: 4px;
  height: 0;
  overflow: visible;
  z-index: 1;
}
.plan {
  width: 100%;
  max-height: calc(100vh - 260px);
  display: block;
}
.room polygon {
  stroke: var(--ink-2);
  stroke-width: 0.12;
  stroke-linejoin: round;
}
.room {
  cursor: pointer;
}
.room:focus-visible,
.room.on {
  outline: none;
}
.room:focus-visible polygon,
.room.on polygon {
  stroke: var(--plum);
  stroke-width: 0.24;
}
text {
  text-anchor: middle;
  dominant-baseline: middle;
  fill: var(--ink);
}
.name {
  font-family: var(--serif);
  font-weight: 600;
}
.value {
  font-family: var(--mono);
  font-weight: 600;
}
.sub {
  font-family: var(--sans);
}
@media (max-width: 700px) {
  .plan {
    max-height: none;
  }
}
</style>
