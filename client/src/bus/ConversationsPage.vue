<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'
import ConversationBox from './ConversationBox.vue'
import FurnishBox from './FurnishBox.vue'

/** What each thing in a room says and hears: who takes part, under which group addresses. */
type Line = Schemas['ConversationLine']
const store = useStore()
const route = useRoute()
const attempt = useDo()
const { value: list, problem, reload } = useShown('/bus/conversations', () => ({}), ['conversation', 'groupAddress', 'busDevice', 'place'])
const editing = ref<Line | 'new' | null>(null)
const removing = ref<string[] | null>(null)
const chosen = ref<string | null>(null)
const furnishing = ref(false)
watch(
  () => route.query.add,
  (a) => a && (a === 'rooms' ? (furnishing.value = true) : (editing.value = 'new')),
  { immediate: true },
)
const columns: Column<Line>[] = [
  { key: 'name', title: 'Conversation', sort: (c) => c.name },
  { key: 'kind', title: 'Is about', width: 150, sort: (c) => c.kindLabel },
  { key: 'parts', title: 'Take part', width: 80, isNumber: true, sort: (c) => c.parts.length },
  { key: 'addresses', title: 'Addresses', width: 150, sort: (c) => c.addresses.length },
  { key: 'findings', title: 'Check', width: 70, sort: (c) => c.findings },
]
const joinAgain = (rows: Line[]) => attempt(() => post('/bus/join-all', { query: { apply: true }, body: rows.map((c) => c.id) }), 'Joined')
const actions = computed<Action<Line>[]>(() => [
  ...(store.may('engineer')
    ? [
        { label: 'Change who takes part…', run: ([c]: Line[]) => (editing.value = c!) },
        { label: 'Join again', run: joinAgain, many: true },
        { label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((c) => c.id)), many: true, key: 'Delete' },
      ]
    : []),
  { label: 'Dossier', run: ([c]) => (store.selected = c!.id) },
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="list" #facts
      ><FactTag>{{ many(list.length, 'conversation') }}</FactTag></template
    >
    <template #actions
      ><template v-if="store.may('engineer')"
        ><NButton v-if="list?.length" id="furnish" @click="furnishing = true">Rooms like another…</NButton
        ><NButton id="add-conversation" type="primary" @click="editing = 'new'">Add a conversation…</NButton></template
      ></template
    >
    <EmptyState v-if="list && !list.length" title="No conversation yet">
      A conversation is what one thing in a room says and hears: a lamp, a blind, a heating zone. Choose the channels that take part; addresses are made by plan
      and all objects are joined at once, feedback included.
      <template v-if="store.may('engineer')" #next><NButton type="primary" @click="editing = 'new'">Add a conversation…</NButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="list"
      v-model:chosen="chosen"
      :rows="list"
      :columns="columns"
      :id="(c) => c.id"
      noun="conversation"
      plural="conversations"
      :words="
        (c) => `${c.name} ${c.path} ${c.kindLabel} ${c.parts.map((p) => `${p.device} ${p.name}`).join(' ')} ${c.addresses.map((a) => a.number).join(' ')}`
      "
      :actions="actions"
    >
      <template #name="{ row: c }"
        ><b>{{ c.name }}</b
        ><br /><span class="dim tiny">{{ c.path }}</span></template
      >
      <template #kind="{ row: c }">{{ c.kindLabel }}</template>
      <template #parts="{ row: c }">{{ c.parts.length }}</template>
      <template #addresses="{ row: c }"
        ><span class="mono">{{
          c.addresses.length ? `${c.addresses[0]!.number}${c.addresses.length > 1 ? ` and ${c.addresses.length - 1}` : ''}` : '–'
        }}</span></template
      >
      <template #findings="{ row: c }"
        ><span :class="{ wrong: c.findings }">{{ c.findings ? `▲ ${c.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: c }">
        <h2>{{ c.name }}</h2>
        <p class="dim">{{ c.kindLabel }} · {{ c.path }}</p>
        <h3>Take part</h3>
        <div v-for="p in c.parts" :key="p.deviceId + p.channel" class="part">
          <div>
            <RouterLink :to="`/wire/bus/${p.deviceId}`">{{ p.device }}</RouterLink>
          </div>
          <div class="dim tiny">{{ p.name }} <span v-if="!p.isInUse" class="wrong">○ disabled</span></div>
        </div>
        <h3>Say and hear</h3>
        <div v-for="a in c.addresses" :key="a.id" class="address">
          <b class="mono">{{ a.number }}</b> {{ a.name }} <span class="dim tiny">{{ a.type }} {{ a.typeName }}</span>
          <p v-for="s in a.says" :key="s" class="tiny">→ {{ s }}</p>
          <p v-for="h in a.hears" :key="h" class="tiny dim">← {{ h }}</p>
        </div>
        <p class="acts"><NButton v-if="store.may('engineer')" type="primary" @click="editing = c">Change who takes part…</NButton></p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ConversationBox v-if="editing" :of="editing === 'new' ? null : editing" @close="editing = null" />
    <FurnishBox v-if="furnishing" @close="furnishing = false" />
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>

<style scoped>
.address {
  border-top: 1px solid var(--rule);
  padding: 3px 0;
}
.address p {
  margin: 0;
}
.part {
  margin-bottom: 4px;
}
</style>
