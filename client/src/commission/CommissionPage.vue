<script setup lang="ts">
import { get, type Schemas } from '../shared/api/http'
import RecordList from '../shared/RecordList.vue'
import { count } from '../shared/numbers'
import { useLoaded, useStore } from '../shared/store'

const store = useStore()
const { value: controllers } = useLoaded<Schemas['Ahead'][]>(
  () => get('/commission'),
  () => JSON.stringify(store.ahead),
  ['controller', 'place'],
)
const { value: building } = useLoaded<Schemas['BuildReview']>(() => get('/site/build'), undefined, [
  'place',
  'equipment',
  'point',
  'controller',
  'fitting',
  'plantTie',
  'taggingRule',
])
const when = (at: number) => (at ? new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at) : '–')
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Review and send</h1>
      <span class="dim">what the project says, against what each controller runs</span>
      <span class="space" />
      <span v-if="building" class="pill" :class="building.lines.length ? 'amber' : 'moss'"
        >{{ building.lines.length ? '▲' : '✓' }} {{ building.sentence }}</span
      >
      <RouterLink class="btn" :class="{ main: building?.lines.length }" to="/commission/build">Build the site</RouterLink>
    </div>
    <div v-if="controllers && !controllers.length" class="sheet empty">
      <h2>No controller yet</h2>
      <p>Add one under Wire; then its program can be sent from here.</p>
    </div>
    <RecordList
      v-else-if="controllers"
      :items="controllers"
      :id="(a) => a.controllerId"
      :text="(a) => `${a.name} ${a.path}`"
      noun="controller"
      plural="controllers"
    >
      <template #head>
        <th>Controller</th>
        <th>Where</th>
        <th>Design against installed</th>
        <th style="text-align: right">Version</th>
        <th>Sent</th>
        <th></th>
      </template>
      <template #default="{ item: a }">
        <td>
          <b>{{ a.name }}</b>
        </td>
        <td>{{ a.path }}</td>
        <td>
          <span v-if="!a.installed" class="pill amber">○ runs nothing yet · {{ count(a.changes) }} records to send</span
          ><span v-else-if="a.changes" class="pill amber">▲ design is {{ a.changes }} change{{ a.changes === 1 ? '' : 's' }} ahead</span
          ><span v-else class="pill moss">✓ runs the design</span>
        </td>
        <td class="num">{{ a.version || '–' }}</td>
        <td class="dim">{{ a.sentBy ? `${a.sentBy}, ${when(a.sentAt)}` : '–' }}</td>
        <td><RouterLink class="btn small" :class="{ main: a.changes }" :to="`/commission/${a.controllerId}`">Review</RouterLink></td>
      </template>
    </RecordList>
  </div>
</template>
