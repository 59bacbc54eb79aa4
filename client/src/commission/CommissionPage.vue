<script setup lang="ts">
import { useStore } from '../shared/store'

const store = useStore()
const when = (at: number) => (at ? new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(at) : '–')
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Review and send</h1>
      <span class="dim">what the project says, against what each controller runs</span>
    </div>
    <div v-if="!store.ahead.length" class="sheet empty">
      <h2>No controller yet</h2>
      <p>Add one under Wire; then its program can be sent from here.</p>
    </div>
    <table v-else class="grid sheet">
      <thead>
        <tr>
          <th>Controller</th>
          <th>Design against installed</th>
          <th style="text-align: right">Version</th>
          <th>Sent</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="a in store.ahead" :key="a.controllerId">
          <td>
            <b>{{ a.name }}</b>
          </td>
          <td>
            <span v-if="!a.installed" class="pill amber">○ runs nothing yet · {{ a.changes }} records to send</span
            ><span v-else-if="a.changes" class="pill amber">▲ design is {{ a.changes }} change{{ a.changes === 1 ? '' : 's' }} ahead</span
            ><span v-else class="pill moss">✓ runs the design</span>
          </td>
          <td class="num">{{ a.version || '–' }}</td>
          <td class="dim">{{ a.sentBy ? `${a.sentBy}, ${when(a.sentAt)}` : '–' }}</td>
          <td><RouterLink class="btn small" :class="{ main: a.changes }" :to="`/commission/${a.controllerId}`">Review</RouterLink></td>
        </tr>
      </tbody>
    </table>
  </div>
</template>
