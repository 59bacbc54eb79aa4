<script setup lang="ts">
import { computed } from 'vue'
import { findKinds } from './story'
import type { SequenceWork } from './useSequence'

/** Blocks and outputs, put into a sequence by words. */
const props = defineProps<{ work: SequenceWork }>()
const emit = defineEmits<{ insert: [kind: string] }>()
const all = computed(() => (props.work.blocks.value ?? []).map((b) => b.definition).filter((d) => !d.isRetired))
const findBlock = (text: string) => findKinds(all.value, text).map((d) => ({ key: d.kind as string, label: d.name, sub: d.group as string }))
const findOutput = async (text: string) =>
  (await props.work.sources(text)).flatMap((g) => (g.source.from === 'point' ? [{ key: g.source.pointId, label: g.name, sub: g.path }] : []))
</script>

<template>
  <div class="head">
    <ComboBox
      id="insert"
      style="flex: 1; min-width: 210px"
      :find="findBlock"
      after="clear"
      at-once
      place="top-start"
      placeholder="Insert a block: what it is, or what it is for"
      aria-label="Insert a block"
      @choose="(item) => item && emit('insert', item.key)"
    />
    <ComboBox
      id="insert-output"
      style="flex: 1; min-width: 210px"
      :find="findOutput"
      after="clear"
      place="top-start"
      placeholder="Command an output: words"
      aria-label="Command an output"
      @choose="(item) => item && work.addOutput(item.key, item.label)"
    />
    <span class="dim tiny"><kbd>B</kbd> block · click an output, then an input · <kbd>Del</kbd> · <kbd>Ctrl D</kbd> twice · <kbd>Space</kbd> more</span>
  </div>
</template>
