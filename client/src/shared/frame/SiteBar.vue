<script setup lang="ts">
import { count } from '../numbers'
import { computed } from 'vue'
import { siteTime, useStore } from '../store'
import { useDo } from '../useDo'

const store = useStore()
const attempt = useDo()
const speeds = [1, 60, 600, 3600]
const time = computed(() => {
  const c = store.clock
  if (!c) return '–'
  return new Intl.DateTimeFormat('en-GB', {
    timeZone: c.timeZone,
    weekday: 'short',
    day: 'numeric',
    month: 'short',
    hour: '2-digit',
    minute: '2-digit',
    second: '2-digit',
  })
    .format(c.now)
    .replaceAll(',', '')
})
const running = computed(() => [...store.jobs.values()].filter((j) => j.state === 'running'))
const behind = computed(() => store.clock?.running && store.clock.speed > 1 && store.clock.actualSpeed < store.clock.speed * 0.8)
const summary = computed(() => {
  const a = store.ahead
  const total = Number(a?.changes ?? 0)
  const of = Number(a?.ahead ?? 0)
  return { total, names: of > 3 ? `${count(of)} controllers` : a?.names.join(', '), to: a?.only ? `/commission/${a.only}` : '/commission' }
})
</script>

<template>
  <footer class="site" aria-label="Site bar">
    <button
      class="btn small"
      :title="store.clock?.running ? 'Pause the site clock' : 'Run the site clock'"
      id="clock-run"
      @click="attempt(() => store.setClock({ running: !store.clock?.running }))"
    >
      {{ store.clock?.running ? '❚❚ Pause' : '▶ Run' }}
    </button>
    <button class="btn small" title="Pause and go on by one second" @click="attempt(() => store.setClock({ stepSeconds: 1 }))">Step 1 s</button>
    <b class="mono clock" :title="siteTime(store.clock?.now)">{{ time }}</b>
    <span class="speeds" role="group" aria-label="Speed of the site clock">
      <button
        v-for="s in speeds"
        :key="s"
        :class="{ on: store.clock?.speed === s }"
        :data-speed="s"
        :aria-pressed="store.clock?.speed === s"
        @click="attempt(() => store.setClock({ speed: s }))"
      >
        {{ s }}×
      </button>
    </span>
    <span
      v-if="store.clock && store.clock.link !== 'heard'"
      class="pill"
      :class="store.clock.link === 'late' ? 'amber' : 'crimson'"
      :title="store.clock.trouble ?? ''"
      >{{ store.clock.link === 'late' ? '◇ Virtual site late' : '✕ Virtual site silent' }} since
      {{ new Date(store.clock.heardAt ?? 0).toTimeString().slice(0, 8) }}</span
    >
    <span v-else :class="['pill', store.clock?.running ? 'moss' : 'amber']">{{
      store.clock?.running ? '● Virtual site running' : '❚❚ Virtual site paused'
    }}</span>
    <span v-if="behind" class="pill amber">really {{ store.clock?.actualSpeed }}×</span>
    <span class="pill mono">Outdoor {{ store.clock?.outdoor?.toFixed(1) ?? '–' }} °C</span>
    <span v-for="j in running" :key="j.id" class="pill plum">{{ j.label }} {{ Math.round((100 * j.done) / Math.max(1, j.total)) }} %</span>
    <span class="space" />
    <span v-if="summary.total" class="ahead"
      >Design is <b>{{ count(summary.total) }} change{{ summary.total === 1 ? '' : 's' }}</b> ahead of <b>{{ summary.names }}</b></span
    >
    <span v-else-if="store.ahead?.controllers" class="ahead dim">✓ Installed as designed</span>
    <RouterLink v-if="summary.total" class="btn main small" :to="summary.to">Review & send</RouterLink>
  </footer>
</template>

<style scoped>
.site {
  background: var(--sunk);
  border-top: 1px solid var(--rule);
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 5px 16px;
  min-height: 40px;
  flex: none;
  white-space: nowrap;
  overflow: hidden;
}
.clock {
  font-size: 13.5px;
  min-width: 165px;
}
.speeds button {
  border: 0;
  background: none;
  padding: 1px 5px;
  border-radius: 5px;
  cursor: pointer;
  font: 12.5px var(--mono);
}
.speeds button.on {
  background: var(--ink);
  color: var(--paper);
}
.ahead {
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 13px;
}
</style>
