<script setup lang="ts">
import type { Schemas } from '../shared/api/http'
import { stepTo } from '../shared/ui/records'

/** The channels of a bus device one below the other; the arrows go through them. */
const props = defineProps<{ view: Schemas['BusDeviceView']; modelValue: string }>()
const emit = defineEmits<{ 'update:modelValue': [channel: string] }>()
function key(e: KeyboardEvent, at: number) {
  const to = stepTo(e.key, at, props.view.channels.length)
  if (to === at) return
  e.preventDefault()
  emit('update:modelValue', props.view.channels[to]!.key)
  ;(e.currentTarget as HTMLElement).parentElement?.querySelectorAll<HTMLElement>('[data-channel]')[to]?.focus()
}
</script>

<template>
  <nav class="sheet channels" aria-label="Channels">
    <BareButton
      v-for="(c, i) in view.channels"
      :key="c.key"
      class="channel"
      :class="{ on: c.key === modelValue }"
      :data-channel="c.key"
      :aria-current="c.key === modelValue"
      @click="emit('update:modelValue', c.key)"
      @keydown="(e: KeyboardEvent) => key(e, i)"
    >
      <span
        >{{ c.isInUse ? '●' : '○' }} <b>{{ c.name }}</b></span
      ><span class="dim tiny">{{ c.isInUse ? '' : 'disabled · ' }}{{ c.differing ? `${c.differing} set · ` : '' }}{{ c.joined }}/{{ c.objects }} joined</span>
    </BareButton>
  </nav>
</template>

<style scoped>
.channels {
  display: grid;
  padding: 6px;
  max-height: calc(100vh - 210px);
  overflow: auto;
}
.channel {
  display: grid;
  text-align: left;
  padding: 4px 8px;
  border-radius: 6px;
}
.channel.on {
  background: var(--plum-soft, var(--sunk));
}
</style>
