<script setup lang="ts">
import { computed } from 'vue'
import { post } from '../shared/api/http'
import { siteTime, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

const store = useStore()
const attempt = useDo()
const zone = computed(() => store.project?.timeZone ?? 'UTC')
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Held by hand</h1>
      <span class="pill">{{ store.held.length }}</span><span class="dim"
        >outputs people hold, and inputs of the virtual site set by hand, wherever they are</span
      >
    </div>
    <div v-if="!store.held.length" class="sheet empty">✓ Nothing is held by hand anywhere. To hold an output, open its point and choose “Hold by hand…”.</div>
    <table v-else class="grid sheet">
      <thead>
        <tr>
          <th>What</th>
          <th>Where</th>
          <th>Held at</th>
          <th>By</th>
          <th>Why</th>
          <th>Since</th>
          <th>Until</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="h in store.held" :key="h.pointId">
          <td>
            <button class="link" @click="store.selected = h.pointId">
              <b>◐ {{ h.name }}</b>
            </button>
          </td>
          <td>{{ h.path }}</td>
          <td class="mono">
            {{ h.says }} <span class="pill">{{ h.isInput ? 'input' : 'output' }}</span>
          </td>
          <td>{{ h.who }}</td>
          <td>{{ h.why }}</td>
          <td class="mono">{{ siteTime(h.at, zone, true) }}</td>
          <td class="mono">{{ h.until ? siteTime(h.until, zone, true) : 'released by hand' }}</td>
          <td>
            <button
              v-if="store.may('operator')"
              class="btn small main"
              @click="attempt(() => post('/held/release', { pointId: h.pointId }), `Released ${h.name}`)"
            >
              Release
            </button>
          </td>
        </tr>
      </tbody>
    </table>
  </div>
</template>

<style scoped>
.link {
  border: 0;
  background: none;
  padding: 0;
  cursor: pointer;
}
.sheet {
  overflow-x: auto;
}
</style>
