<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Where all points without a source would go on one controller, with which modules added, and which find no terminal and why, before they are put there. */
const props = defineProps<{ controller: Schemas['Controller']; takesModules: boolean }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const path = { id: props.controller.id }
const mayAdd = ref(false)
const together = ref(false)
const spare = ref<number | null>(0)
const asked = computed(() => ({ mayAdd: mayAdd.value, together: together.value, spare: spare.value ?? 0 }))
const { value: fit, problem } = useShown('/controllers/{id}/fit', () => ({ path, query: asked.value }), ['fitting', 'point', 'controller', 'module'])
async function apply() {
  const body = { mayAdd: mayAdd.value, together: together.value, sparePercent: spare.value ?? 0 }
  if (await attempt(() => post('/controllers/{id}/fit', { path, body }), 'Fitted')) emit('close')
}
</script>

<template>
  <div class="sheet">
    <div class="head">
      <h2>Fit the points</h2>
      <NCheckbox v-if="takesModules" id="fit-add" v-model:checked="mayAdd">add modules where needed</NCheckbox>
      <NCheckbox id="fit-together" v-model:checked="together">a piece of equipment on one device</NCheckbox>
      <label class="spare">spare <NumberBox v-model="spare" unit="%" :width="76" aria-label="Spare, percent" /></label>
    </div>
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <div v-if="fit" class="head">
      <b>{{ fit.sentence }}</b><span v-if="fit.quality" class="dim">{{ fit.quality }}</span
      ><span class="space" /><NButton id="fit-apply" type="primary" :disabled="!fit.fittings.length" @click="apply"
        >Put {{ fit.fittings.length }} onto {{ controller.name }}</NButton
      ><NButton @click="emit('close')">Not now</NButton>
    </div>
    <NTable v-if="fit" size="small" :bordered="false" class="close">
      <tbody>
        <tr v-for="a in fit.added" :key="a.name">
          <td class="mono">+ {{ a.name }}</td>
          <td>
            <b>{{ a.model }}</b> <span class="dim">on rail {{ a.rail }}</span>
          </td>
          <td>{{ a.price }} EUR</td>
        </tr>
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

<style scoped>
.spare {
  display: flex;
  gap: 6px;
  align-items: center;
}
</style>
