<script setup lang="ts">
import { ref } from 'vue'
import { NButton } from 'naive-ui'
import { get, post, type Schemas } from '../shared/api/http'
import RecordList from '../shared/RecordList.vue'
import { count } from '../shared/numbers'
import { useDo } from '../shared/useDo'
import { useLoaded, useStore } from '../shared/store'

const store = useStore()
const attempt = useDo()
const {
  value: review,
  problem,
  reload,
} = useLoaded<Schemas['BuildReview']>(() => get('/site/build'), undefined, ['place', 'equipment', 'point', 'controller', 'fitting', 'plantTie', 'taggingRule'])
const busy = ref(false)
const step: Record<Schemas['BuildStep'], string> = { build: '+ build', change: '~ change', takeAway: '− take away' }
async function build() {
  busy.value = true
  await attempt(async () => void (review.value = await post('/site/build')), 'The virtual site stands as it is drawn')
  busy.value = false
  await reload()
}
</script>

<template>
  <div class="page">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="review">
      <div class="head">
        <h1>Build the site</h1>
        <span class="pill" :class="review.lines.length ? 'amber' : 'moss'">{{ review.lines.length ? '▲' : '✓' }} {{ review.sentence }}</span>
        <span class="space" />
        <RouterLink class="btn" to="/commission">Review and send</RouterLink>
        <NButton v-if="store.may('technician')" id="build" type="primary" :loading="busy" :disabled="!review.lines.length" @click="build"
          >Build what differs</NButton
        >
      </div>
      <p class="dim">
        The virtual site stands in for builders and electricians. It knows nothing of the drawings until you build: only the rooms, machines and wires below are
        touched, and what stays keeps its warmth. Programs are not sent by this.
      </p>
      <div v-if="!review.lines.length" class="sheet empty">
        <h2>Nothing to build</h2>
        <p>Draw a room, add equipment or put a point onto a terminal; what differs then is listed here.</p>
      </div>
      <RecordList
        v-else
        :items="review.lines"
        :id="(l) => `${l.sort}|${l.id}|${l.hostId}|${l.terminal}`"
        :text="(l) => `${l.sort} ${l.name} ${l.where}`"
        noun="line"
        plural="lines"
      >
        <template #head>
          <th>What</th>
          <th>Sort</th>
          <th>Name</th>
          <th>Where</th>
          <th>Change</th>
        </template>
        <template #default="{ item: l }">
          <td style="white-space: nowrap" :class="{ wrong: l.step === 'takeAway' }">{{ step[l.step as Schemas['BuildStep']] }}</td>
          <td>{{ l.sort }}</td>
          <td>
            <b>{{ l.name }}</b>
          </td>
          <td :class="{ mono: l.terminal }">{{ l.where || '–' }}</td>
          <td>{{ l.detail ?? '–' }}</td>
        </template>
      </RecordList>
      <p v-if="review.isCut" class="dim">Only the first {{ count(review.lines.length) }} lines are shown; all of them are built.</p>
    </template>
  </div>
</template>
