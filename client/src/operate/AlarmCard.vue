<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { siteTime } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** One alarm that came: since when, value, limit, advice, whether it is still so, and taking note of it. */
const props = defineProps<{ alarm: Schemas['AlarmView'] }>()
const store = useStore()
const attempt = useDo()
const note = ref('')
const noting = ref(false)
const zone = computed(() => store.project?.timeZone ?? 'UTC')
const day = (ms: number) => siteTime(ms, zone.value, true).slice(0, 14)
const today = computed(() => day(props.alarm.since) === day(store.clock?.now ?? 0))
const signs: Record<string, string> = { fault: '✕', lowLimit: '▼' }
async function acknowledge() {
  if (await attempt(() => post('/alarms/{id}/acknowledge', { path: { id: props.alarm.id }, body: { note: note.value || null } }), 'Acknowledged'))
    noting.value = false
}
</script>

<template>
  <article class="sheet card" :class="{ so: alarm.stillSo, done: alarm.acknowledgedBy }">
    <div class="head">
      <b :class="{ wrong: alarm.stillSo }">{{ signs[alarm.state] ?? '▲' }} {{ alarm.name }}</b
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
      <TextBox v-model="note" style="flex: 1" maxlength="500" placeholder="a note, if you like" aria-label="Note" autofocus /><NButton
        type="primary"
        size="small"
        attr-type="submit"
        data-act="acknowledge-do"
      >
        Acknowledge
      </NButton>
    </form>
    <div v-else class="head">
      <NButton type="primary" size="small" v-if="!alarm.acknowledgedBy && store.may('operator')" data-act="acknowledge" @click="noting = true"
        >Acknowledge…</NButton
      >
      <NButton size="small" data-act="why" @click="store.selected = alarm.alarmId">Why?</NButton
      ><NButton size="small" @click="store.selected = alarm.pointId">Point</NButton>
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
