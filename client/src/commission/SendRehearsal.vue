<script setup lang="ts">
import { ref } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** What a send would bring, rehearsed beside the program that runs: which outputs and values move, what stays, how long it takes. */
const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const rehearsal = ref<Schemas['RehearsalView'] | null>(null)
const rehearse = () => attempt(async () => (rehearsal.value = await get('/commission/{id}/rehearsal', { path: { id: props.controller } })))
</script>

<template>
  <div class="sheet" data-rehearsal>
    <h2>What will move</h2>
    <p v-if="!rehearsal" class="dim">
      The new program is run once beside the old one, with what that remembers and what stands at its terminals. Nothing there changes.
    </p>
    <template v-else>
      <p v-if="!rehearsal.moves.length">✓ No output and no value becomes another at the change-over.</p>
      <NTable v-else size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="m in rehearsal.moves" :key="m.id">
            <td>
              <NButton text type="info" @click="store.selected = m.id">{{ m.name }}</NButton>
            </td>
            <td class="mono">{{ m.before }} → {{ m.after }}</td>
          </tr>
        </tbody>
      </NTable>
      <p class="dim">
        {{ rehearsal.holdsKept }} of {{ many(rehearsal.holds, 'hold') }} by hand and {{ rehearsal.logsKept }} of {{ many(rehearsal.logs, 'log') }} go on. About
        {{ rehearsal.seconds }} s in {{ many(rehearsal.pieces, 'piece') }}; the change itself falls between two scans.
      </p>
    </template>
    <p class="acts">
      <NButton v-if="store.may('technician')" id="rehearse" size="small" @click="rehearse">{{ rehearsal ? 'Rehearse again' : 'Rehearse the send' }}</NButton>
    </p>
  </div>
</template>
