<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { count } from '../shared/numbers'
import { useStore } from '../shared/store'
import type { Action, Column } from '../shared/ui/records'
import BindBox from './BindBox.vue'
import JoinObjectBox from './JoinObjectBox.vue'
import ShiftBox from './ShiftBox.vue'

/** All group addresses: who says them and who hears them. */
type Line = Schemas['AddressLine']
const store = useStore()
const { value: list, problem, reload } = useShown('/bus/groups', () => ({}), ['groupAddress', 'busDevice', 'conversation', 'busBinding', 'point'])
const removing = ref<string[] | null>(null)
const chosen = ref<string | null>(null)
const binding = ref<Line | null>(null)
const moving = ref<Line[] | null>(null)
const joining = ref<Line | null>(null)
/** Devices and points that say it, and that hear it. */
const says = (a: Line) => a.says.length + a.points.filter((p) => p.says).length
const hears = (a: Line) => a.hears.length + a.points.filter((p) => !p.says).length
const columns: Column<Line>[] = [
  { key: 'number', title: 'Address', width: 90, sort: (a) => a.number.split('/').reduce((sum, p) => sum * 256 + Number(p), 0) },
  { key: 'name', title: 'Group', sort: (a) => a.name },
  { key: 'type', title: 'Datapoint', width: 170, sort: (a) => a.type },
  { key: 'says', title: 'Say it', width: 66, isNumber: true, sort: (a) => says(a) },
  { key: 'hears', title: 'Hear it', width: 70, isNumber: true, sort: (a) => hears(a) },
  { key: 'findings', title: 'Check', width: 70, sort: (a) => a.findings },
]
const actions = computed<Action<Line>[]>(() => [
  { label: 'Dossier', run: ([a]) => (store.selected = a!.id) },
  ...(store.may('engineer')
    ? [
        { label: 'Join an object…', run: ([a]: Line[]) => (joining.value = a!), key: 'o' },
        { label: 'Bind a point…', run: ([a]: Line[]) => (binding.value = a!), key: 'b' },
        { label: 'Move by a pattern…', run: (rows: Line[]) => (moving.value = rows), many: true, key: 'm' },
      ]
    : []),
  ...(store.may('engineer') ? [{ label: 'Remove…', run: (rows: Line[]) => (removing.value = rows.map((a) => a.id)), many: true, key: 'Delete' }] : []),
])
</script>

<template>
  <PageShell :problem="problem" @again="reload">
    <template v-if="list" #facts
      ><FactTag>{{ `${count(list.length)} address${list.length === 1 ? '' : 'es'}` }}</FactTag></template
    >
    <template #actions><LinkButton v-if="list?.length" to="/wire/bus-matrix">As a matrix</LinkButton></template>
    <EmptyState v-if="list && !list.length" title="No group address yet">
      Group addresses are made when a conversation is joined, or at the objects of a device. Begin with a conversation.
      <template #next><LinkButton main to="/wire/conversations">Conversations</LinkButton></template>
    </EmptyState>
    <RecordTable
      v-else-if="list"
      v-model:chosen="chosen"
      :rows="list"
      :columns="columns"
      :id="(a) => a.id"
      noun="group address"
      plural="group addresses"
      :words="(a) => `${a.number} ${a.name} ${a.type} ${a.typeName} ${a.says.join(' ')} ${a.hears.join(' ')}`"
      :actions="actions"
    >
      <template #number="{ row: a }"
        ><b class="mono">{{ a.number }}</b></template
      >
      <template #name="{ row: a }">{{ a.name }}</template>
      <template #type="{ row: a }"
        ><span class="mono">{{ a.type }}</span> {{ a.typeName }}</template
      >
      <template #says="{ row: a }">{{ says(a) || '–' }}</template>
      <template #hears="{ row: a }">{{ hears(a) || '–' }}</template>
      <template #findings="{ row: a }"
        ><span :class="{ wrong: a.findings }">{{ a.findings ? `▲ ${a.findings}` : '✓' }}</span></template
      >
      <template #details="{ row: a }">
        <h2 class="mono">{{ a.number }}</h2>
        <p>{{ a.name }}</p>
        <p class="dim">{{ a.type }} {{ a.typeName }}</p>
        <h3>Say it</h3>
        <p v-for="s in a.says" :key="s">→ {{ s }}</p>
        <p v-if="!a.says.length" class="dim">No device.</p>
        <h3>Hear it</h3>
        <p v-for="h in a.hears" :key="h">← {{ h }}</p>
        <p v-if="!a.hears.length" class="dim">No device.</p>
        <h3>Points</h3>
        <p v-for="p in a.points" :key="p.bindingId">
          {{ p.says ? '→' : '←' }} {{ p.name }}
          <span class="dim"
            >{{ p.path }} · {{ p.controller }}{{ !p.says ? '' : p.againMinutes ? `, again every ${p.againMinutes} min` : ', only when it is another' }}</span
          >{{ ' ' }}
          <NButton v-if="store.may('engineer')" size="tiny" @click="removing = [p.bindingId]">take off</NButton>
        </p>
        <p v-if="!a.points.length" class="dim">None: schedules, trends, alarms and views know nothing of it yet.</p>
        <p v-if="store.may('engineer')" class="acts">
          <NButton @click="joining = a">Join an object…</NButton><NButton @click="binding = a">Bind a point…</NButton>
        </p>
      </template>
    </RecordTable>
    <NSkeleton v-else text :repeat="5" />
    <ShiftBox v-if="moving" :addresses="moving" @close="moving = null" />
    <JoinObjectBox v-if="joining" :group="joining" @close="joining = null" />
    <BindBox v-if="binding" :group="binding" @close="binding = null" />
    <ConfirmRemoval v-if="removing" :ids="removing" @close="removing = null" />
  </PageShell>
</template>
