<script setup lang="ts">
import type { Schemas } from '../shared/api/http'

/** What joining comes to: the addresses made, who says and hears what, and what should be looked at. */
defineProps<{ joined: Schemas['JoinedView'] }>()
</script>

<template>
  <div class="preview">
    <p v-for="(d, i) in joined.doubts" :key="i" class="doubt">▲ {{ d.device }} · {{ d.what }}: {{ d.why }}</p>
    <NTable v-if="joined.lines.length" size="small" :bordered="false" class="close">
      <thead>
        <tr>
          <th>Role</th>
          <th>Address</th>
          <th>Object</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="(l, i) in joined.lines" :key="i" :class="{ goes: l.goes }">
          <td>{{ l.role }}</td>
          <td class="mono">{{ l.address }}</td>
          <td>{{ l.sends ? '→' : '←' }} {{ l.device }}: {{ l.object }}</td>
          <td>{{ l.goes ? '− goes' : l.isNew ? '+ new' : '= is so' }}</td>
        </tr>
      </tbody>
    </NTable>
  </div>
</template>

<style scoped>
.preview {
  max-height: 230px;
  overflow: auto;
}
.doubt {
  color: var(--amber-ink, var(--ink));
  margin: 2px 0;
}
.goes td {
  text-decoration: line-through;
}
.goes td:last-child {
  text-decoration: none;
}
</style>
