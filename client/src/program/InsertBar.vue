<script setup lang="ts">
import { until } from '@vueuse/core'
import { computed, shallowRef } from 'vue'
import { get, type Schemas } from '../shared/api/http'
import { matching } from '../shared/words'
import { findKinds } from './story'
import type { SequenceWork } from './useSequence'

/** Blocks and outputs, put into a sequence by words. */
const props = defineProps<{ work: SequenceWork }>()
const emit = defineEmits<{ insert: [kind: string] }>()
const all = computed(() => (props.work.blocks.value ?? []).map((b) => b.definition).filter((d) => !d.isRetired && !d.isInner))
/** Own blocks of the project come before kinds; they are asked for when somebody looks. */
const own = shallowRef<Schemas['OwnBlockLine'][]>([])
const look = async () => (own.value = await get('/own-blocks', {}).catch(() => []))
async function findBlock(text: string) {
  if (text.length < 2) void look()
  // Typed before the catalogue is there: it is waited for, not missed.
  await until(props.work.blocks).toMatch((list) => list !== null, { timeout: 20_000 })
  return [
    ...matching(own.value, (o) => `own ${o.name}`, text).map((o) => ({ key: `own:${o.name}`, label: o.name, sub: `own, revision ${o.revision}` })),
    ...findKinds(all.value, text).map((d) => ({ key: d.kind as string, label: d.name, sub: d.group as string })),
  ]
}
function take(key: string) {
  const line = own.value.find((o) => `own:${o.name}` === key)
  if (line) void props.work.insertOwn(line.part)
  else emit('insert', key)
}
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
      placeholder="Insert a block: name or need"
      aria-label="Insert a block"
      @choose="(item) => item && take(item.key)"
    />
    <ComboBox
      id="insert-output"
      style="flex: 1; min-width: 210px"
      :find="findOutput"
      after="clear"
      at-once
      place="top-start"
      placeholder="Command an output: words"
      aria-label="Command an output"
      @choose="(item) => item && work.addOutput(item.key, item.label)"
    />
    <span class="dim tiny"><kbd>B</kbd> block · click an output, then an input · <kbd>Del</kbd> · <kbd>Ctrl D</kbd> twice · <kbd>Space</kbd> more</span>
  </div>
</template>
