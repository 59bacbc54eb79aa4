<script setup lang="ts">
import { computed } from 'vue'
import { useShown } from '../shared/api/cache'
import { post } from '../shared/api/http'
import type { Block } from '../shared/api/records'
import { useLive } from '../shared/store'
import { useDo } from '../shared/useDo'
import type { SequenceWork } from './useSequence'

/** An own block opened in its place: the lines inside with what they carry now, its revision, and taking it apart. */
const props = defineProps<{ work: SequenceWork; block: Block }>()
const { s, may, picked } = props.work
const attempt = useDo()
const path = computed(() => ({ id: s.value!.id, block: props.block.id }))
const { value: inside } = useShown('/sequences/{id}/inside/{block}', () => ({ path: path.value }), ['sequence'])
const key = (of: string) => `b:${s.value!.id}/${props.block.id}.${of}/out`
useLive(() => (inside.value?.lines ?? []).flatMap((l) => (l.of ? [key(l.of)] : [])))
const part = computed(() => props.block.inside!)
async function apart() {
  await attempt(async () => {
    const parted = await post('/sequences/{id}/apart/{block}', { path: path.value })
    if (await props.work.save(parted.sequence, `Took ‘${props.work.say(props.block)}’ apart`)) picked.value = []
  })
}
const renew = () =>
  attempt(async () => {
    const parted = await post('/sequences/{id}/renew/{block}', { path: path.value })
    await props.work.save(parted.sequence, `Updated ‘${part.value.name}’ to revision ${inside.value!.latest}`)
  })
</script>

<template>
  <h3>Inside</h3>
  <p class="dim tiny">‘{{ part.name }}’, revision {{ part.revision }}</p>
  <p v-if="inside && may && inside.latest > Number(part.revision)" class="bar">
    Revision {{ inside.latest }} is in the library. <NButton size="small" @click="renew">Update</NButton>
  </p>
  <ol class="lines" aria-label="Inside">
    <li v-for="l in inside?.lines ?? []" :key="l.number">
      <span class="mono tiny">{{ l.text }}</span> <b v-if="l.of" class="mono tiny now">{{ work.live(key(l.of))?.text ?? '–' }}</b>
    </li>
  </ol>
  <p v-if="may" class="acts"><NButton id="take-apart" size="small" @click="apart">Take apart</NButton></p>
</template>

<style scoped>
.lines {
  margin: 0;
  padding-left: 20px;
}
.now {
  color: var(--plum);
}
</style>
