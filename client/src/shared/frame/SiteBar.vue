<script setup lang="ts">
import { count, siteTime } from '../numbers'
import { computed } from 'vue'
import { useStore } from '../store'
import { useDo } from '../useDo'

const store = useStore()
const attempt = useDo()
const speeds = [1, 60, 600, 3600].map((value) => ({ value, label: `${value}×` }))
const time = computed(() => siteTime(store.clock?.now, store.clock?.timeZone, true, true))
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
    <NButton
      size="small"
      :title="store.clock?.running ? 'Pause the site clock' : 'Run the site clock'"
      id="clock-run"
      @click="attempt(() => store.setClock({ running: !store.clock?.running }))"
    >
      {{ store.clock?.running ? '❚❚ Pause' : '▶ Run' }}
    </NButton>
    <NButton size="small" title="Pause and go on by one second" @click="attempt(() => store.setClock({ stepSeconds: 1 }))">Step 1 s</NButton>
    <b class="mono clock">{{ time }}</b>
    <ChooseOne
      :model-value="store.clock?.speed ?? 1"
      :options="speeds"
      size="small"
      label="Speed of the site clock"
      class="speeds"
      @update:model-value="(speed: number) => attempt(() => store.setClock({ speed }))"
    />
    <FactTag :tone="store.clock.link === 'late' ? 'amber' : 'crimson'" v-if="store.clock && store.clock.link !== 'heard'" :title="store.clock.trouble ?? ''"
      >{{ store.clock.link === 'late' ? '◇ Virtual site late' : '✕ Virtual site silent' }} since
      {{ new Date(store.clock.heardAt ?? 0).toTimeString().slice(0, 8) }}</FactTag
    >
    <FactTag v-else :tone="store.clock?.running ? 'moss' : 'amber'">{{ store.clock?.running ? '● Virtual site running' : '❚❚ Virtual site paused' }}</FactTag>
    <FactTag tone="amber" v-if="behind">really {{ store.clock?.actualSpeed }}×</FactTag>
    <FactTag mono>Outdoor {{ store.clock?.outdoor?.toFixed(1) ?? '–' }} °C</FactTag>
    <FactTag tone="plum" v-for="j in running" :key="j.id">{{ j.label }} {{ Math.round((100 * j.done) / Math.max(1, j.total)) }} %</FactTag>
    <span class="space" />
    <span v-if="summary.total" class="ahead"
      >Design is <b>{{ count(summary.total) }} change{{ summary.total === 1 ? '' : 's' }}</b> ahead of <b>{{ summary.names }}</b></span
    >
    <span v-else-if="store.ahead?.controllers" class="ahead dim">✓ Installed as designed</span>
    <LinkButton main size="small" v-if="summary.total" :to="summary.to">Review & send</LinkButton>
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
  flex: none;
}
@container frame (max-width: 1150px) {
  .site {
    flex-wrap: wrap;
  }
}
.ahead {
  overflow: hidden;
  text-overflow: ellipsis;
  font-size: 13px;
}
</style>
