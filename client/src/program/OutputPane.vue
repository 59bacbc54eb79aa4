<script setup lang="ts">
import { computed } from 'vue'
import type { Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import SourceInput from './SourceInput.vue'
import type { SequenceWork } from './useSequence'

/** A commanded output beside the diagram: the claims of this sequence on it, each with its priority, label and source. */
const props = defineProps<{ work: SequenceWork; output: Schemas['LadderDesign'] }>()
const store = useStore()
const { s, may, ladders } = props.work
const claims = computed(() => s.value?.commands?.find((c) => c.pointId === props.output.pointId)?.claims ?? [])
const set = (priority: number, patch: Partial<Schemas['Claim']> | null) => props.work.setClaim(props.output.pointId, priority, patch)
</script>

<template>
  <span class="dim">Commanded output · {{ output.where ?? 'not wired' }}</span>
  <h2>{{ output.name }}</h2>
  <p class="dim">{{ output.path }}</p>
  <h3>Claims of this sequence</h3>
  <div v-for="k in claims" :key="k.priority" class="claim">
    <label class="row"
      ><span>Priority</span
      ><NumberBox
        :model-value="k.priority"
        :disabled="!may"
        data-claim="priority"
        aria-label="Priority"
        @update:model-value="(v) => set(k.priority, { priority: v ?? 0 })"
    /></label>
    <label class="row"
      ><span>Label</span
      ><TextBox
        lazy
        :model-value="k.label"
        :disabled="!may"
        data-claim="label"
        aria-label="Label"
        @update:model-value="(label: string) => label !== (k.label ?? '') && set(k.priority, { label })"
    /></label>
    <label class="row"
      ><span>Source</span
      ><SourceInput
        :sequence-id="s!.id"
        :says="work.sourceText(k.source)"
        :disabled="!may"
        label="Source of the claim"
        data-pin="claim"
        @choose="(source) => set(k.priority, { source })"
    /></label>
    <NButton v-if="may" size="small" @click="set(k.priority, null)">Remove this claim</NButton>
  </div>
  <p class="acts">
    <NButton v-if="may" id="add-claim" type="primary" size="small" @click="work.addClaim(output)">Add a claim</NButton
    ><NButton size="small" @click="store.selected = output.pointId">Why? Dossier</NButton
    ><NButton v-if="may" size="small" @click="work.remove">Take the output out</NButton>
  </p>
  <p v-if="ladders.get(output.pointId)" class="dim">{{ ladders.get(output.pointId)!.ifReleased }}</p>
</template>

<style scoped>
.claim {
  border-bottom: 1px solid var(--rule);
  padding-bottom: 6px;
}
</style>
