<script setup lang="ts">
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Where all points without a source would go on one controller, and which find no terminal and why, before they are put there. */
const props = defineProps<{ controller: Schemas['Controller'] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const path = { id: props.controller.id }
const { value: fit, problem } = useShown('/controllers/{id}/fit', () => ({ path }), ['fitting', 'point', 'controller'])
async function apply() {
  if (await attempt(() => post('/controllers/{id}/fit', { path }), 'Fitted')) emit('close')
}
</script>

<template>
  <div class="sheet">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <div v-if="fit" class="head">
      <h2>Fit the points</h2>
      <span>{{ fit.sentence }}</span><span class="space" /><NButton id="fit-apply" type="primary" :disabled="!fit.fittings.length" @click="apply"
        >Put {{ fit.fittings.length }} onto {{ controller.name }}</NButton
      ><NButton @click="emit('close')">Not now</NButton>
    </div>
    <NTable v-if="fit" size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="f in fit.fittings" :key="f.pointId">
          <td class="mono">{{ f.terminal }}</td>
          <td>
            <b>{{ f.name }}</b> <span class="dim">{{ f.path }}</span>
          </td>
          <td>{{ f.signal }}</td>
        </tr>
        <tr v-for="l in fit.left" :key="l.pointId">
          <td class="wrong">✕</td>
          <td>
            <b>{{ l.name }}</b> <span class="dim">{{ l.path }}</span>
          </td>
          <td>{{ l.why }}</td>
        </tr>
      </tbody>
    </NTable>
  </div>
</template>
