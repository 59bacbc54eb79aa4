<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import AlarmCard from './AlarmCard.vue'
import type { Read } from './floor'

/** Beside a floor: what its colours mean, what wants somebody, here first and then elsewhere, and its extremes. */
const props = defineProps<{
  measure?: Schemas['RoomMeasure']
  against: 'now' | 'past' | 'then'
  here: ReadonlySet<string>
  numbers: readonly { room: string; read: Read & { v: number } }[]
}>()
const store = useStore()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const MOST = 4
const groups = computed(() =>
  [
    { title: 'Needs you here', is: (point: string) => props.here.has(point) },
    { title: 'Elsewhere', is: (point: string) => !props.here.has(point) },
  ].map((g) => ({ title: g.title, alarms: store.alarms.filter((a) => g.is(a.pointId)), held: store.held.filter((h) => g.is(h.pointId)) })),
)
const sorted = computed(() => [...props.numbers].sort((a, b) => b.read.v - a.read.v))
const average = computed(() => sorted.value.reduce((s, x) => s + x.read.v, 0) / Math.max(1, sorted.value.length))
</script>

<template>
  <div class="side">
    <div v-if="measure?.span" class="sheet">
      <span class="dim">{{ measure.differenceUnit }} from {{ against === 'then' ? 'what it was then' : 'setpoint' }}</span>
      <div class="scale" />
      <div class="ends mono">
        <span>−{{ measure.span }}</span
        ><span>0</span><span>+{{ measure.span }}</span>
      </div>
      <p class="dim tiny">● live ◐ held by hand ▣ simulated ◇ stale ▲ alarm ✕ fault ○ none · plain: nothing to compare with</p>
    </div>
    <div class="sheet">
      <template v-for="(g, i) in groups" :key="g.title">
        <h2 v-if="!i || g.alarms.length || g.held.length">{{ g.title }}</h2>
        <p v-if="!i && !g.alarms.length && !g.held.length" class="dim">✓ Nothing. No alarm, nothing held by hand.</p>
        <template v-if="!i"><AlarmCard v-for="a in g.alarms.slice(0, MOST)" :key="a.id" :alarm="a" /></template>
        <template v-else
          ><RouterLink v-for="a in g.alarms.slice(0, MOST)" :key="a.id" to="/supervise/alarms" class="line"
            ><span :class="{ wrong: a.stillSo }">▲ {{ a.name }}</span> <span class="dim">{{ a.path }}</span></RouterLink
          ></template
        >
        <RouterLink v-for="h in g.held.slice(0, MOST)" :key="h.pointId" to="/operate/held" class="line"
          >◐ <b>{{ h.name }}</b> {{ h.says }}
          <span class="dim">by {{ h.who }}{{ h.until ? `, ends ${siteTime(h.until, zone, true)}` : ', until released' }}</span></RouterLink
        >
        <RouterLink v-if="g.alarms.length > MOST" to="/supervise/alarms">and {{ g.alarms.length - MOST }} more alarms</RouterLink>
        <RouterLink v-if="g.held.length > MOST" to="/operate/held">and {{ g.held.length - MOST }} more held by hand</RouterLink>
      </template>
    </div>
    <div v-if="sorted.length && measure?.span" class="sheet facts">
      <h2>This floor</h2>
      <p
        v-for="[what, x] in [
          ['Highest', sorted[0]!],
          ['Lowest', sorted.at(-1)!],
        ] as const"
        :key="what"
      >
        <span>{{ what }}</span><span class="mono">{{ x.read.text }}</span
        ><span>{{ x.room }}</span>
      </p>
      <p>
        <span>Average</span><span class="mono">{{ average.toFixed(1) }} {{ sorted[0]!.read.text.split(' ')[1] }}</span
        ><span>{{ sorted.length }} rooms</span>
      </p>
    </div>
  </div>
</template>

<style scoped>
.side {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(290px, 1fr));
  align-items: start;
  gap: 12px;
}
.side .sheet {
  display: grid;
  gap: 6px;
}
.scale {
  height: 12px;
  border-radius: 6px;
  background: linear-gradient(90deg, var(--cold), var(--paper), var(--warm));
  border: 1px solid var(--rule);
}
.ends {
  display: flex;
  justify-content: space-between;
}
.line {
  color: var(--ink);
  text-decoration: none;
}
.facts p {
  display: grid;
  grid-template-columns: 70px 80px 1fr;
  gap: 6px;
}
</style>
