<script setup lang="ts">
import { computed } from 'vue'
import type { Pasting } from './usePasting'

/** What is about to be pasted: each point with its counterpart here, and those that have to be said. */
const props = defineProps<{ pasting: Pasting }>()
const { asking, choose, keep, leave } = props.pasting
const open = computed(() => asking.value?.points.filter((p) => !p.is).length ?? 0)
</script>

<template>
  <ModalBox v-if="asking" wide :label="`Paste from ‘${asking.from}’`" @close="leave">
    <h2>Paste from ‘{{ asking.from }}’</h2>
    <p class="dim">
      Points are matched by what they are to their equipment. {{ open }} {{ open === 1 ? 'has' : 'have' }} no counterpart here: say which it is, or leave what
      reads it open.
    </p>
    <ul class="points">
      <li v-for="p in asking.points" :key="p.was" :class="{ open: !p.is }">
        <span
          >{{ p.isCommanded ? 'commands' : 'reads' }} <b>{{ p.wasName }}</b></span
        >
        <span aria-hidden="true">→</span>
        <RecordPicker
          nouns="point"
          reverts
          size="small"
          :says="p.isName"
          :placeholder="p.is ? '' : 'which point is it here?'"
          :aria-label="`What ${p.wasName} is here`"
          @choose="(r) => choose(p.was, r?.id ?? null)"
        />
        <span class="dim tiny">{{ p.is ? p.why : '▲ ' + p.why }}</span>
      </li>
    </ul>
    <p class="acts">
      <NButton id="paste-now" type="primary" @click="keep(asking)">{{ open ? `Paste, ${open} left open` : 'Paste' }}</NButton>
      <NButton @click="leave">Cancel</NButton>
    </p>
  </ModalBox>
</template>

<style scoped>
.points {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 6px;
  max-height: 50vh;
  overflow: auto;
}
li {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 16px 240px minmax(0, 0.7fr);
  gap: 8px;
  align-items: center;
}
li.open {
  border-left: 3px solid var(--amber);
  padding-left: 6px;
}
</style>
