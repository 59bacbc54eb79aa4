<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { siteTime, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** One alarm that came: since when, value, limit, advice, whether it is still so, and taking note of it. */
const props = defineProps<{ alarm: Schemas['AlarmView'] }>()
const store = useStore()
const attempt = useDo()
const note = ref('')
const noting = ref(false)
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const day = (ms: number) => new Intl.DateTimeFormat('en-GB', { timeZone: zone.value, dateStyle: 'short' }).format(ms)
const today = computed(() => day(props.alarm.since) === day(store.clock?.now ?? 0))
async function acknowledge() {
  if (await attempt(() => post(`/alarms/${props.alarm.id}/acknowledge`, { note: note.value || null }), 'Acknowledged')) noting.value = false
}
</script>

<template>
  <article class="sheet card" :class="{ so: alarm.stillSo, done: alarm.acknowledgedBy }">
    <div class="head">
      <b :class="{ wrong: alarm.stillSo }">{{ alarm.state === 'fault' ? '✕' : alarm.state === 'lowLimit' ? '▼' : '▲' }} {{ alarm.name }}</b
      ><span class="space" /><span class="mono when" :title="`since ${siteTime(alarm.since, zone, true)}`">{{ siteTime(alarm.since, zone, !today) }}</span>
    </div>
    <p>
      <span class="dim">{{ alarm.path }} ›</span> {{ alarm.point }}
    </p>
    <p>
      Came with <b class="mono">{{ alarm.value }}</b><template v-if="alarm.limit"
        >, limit <b class="mono">{{ alarm.limit }}</b></template
      >. {{ alarm.stillSo ? 'Still so' : `Over since ${siteTime(alarm.until, zone)}`
      }}<template v-if="alarm.now"
        >; now <b class="mono">{{ alarm.now }}</b></template
      >.
    </p>
    <p v-if="alarm.advice">{{ alarm.advice }}</p>
    <p v-if="alarm.acknowledgedBy" class="dim">
      ✓ {{ alarm.acknowledgedBy }} at {{ siteTime(alarm.acknowledgedAt, zone) }}{{ alarm.note ? `: “${alarm.note}”` : '' }}
    </p>
    <form v-if="noting" class="head" @submit.prevent="acknowledge" @keydown.esc.stop="noting = false">
      <input v-model="note" class="field" style="flex: 1" maxlength="500" placeholder="a note, if you like" aria-label="Note" autofocus /><button
        class="btn main small"
        data-act="acknowledge-do"
      >
        Acknowledge
      </button>
    </form>
    <div v-else class="head">
      <button v-if="!alarm.acknowledgedBy && store.may('operator')" class="btn main small" data-act="acknowledge" @click="noting = true">Acknowledge…</button>
      <button class="btn small" data-act="why" @click="store.selected = alarm.alarmId">Why?</button
      ><button class="btn small" @click="store.selected = alarm.pointId">Point</button>
    </div>
  </article>
</template>

<style scoped>
.card {
  display: flex;
  flex-direction: column;
  gap: 5px;
}
.card.so {
  background: var(--crimson-soft);
  border-color: var(--crimson);
}
.card.done {
  background: var(--sheet);
}
</style>
