<script setup lang="ts">
import { NTag } from 'naive-ui'

/** A short fact; its tone says how it stands, its words say it too. */
export type Tone = 'plain' | 'plum' | 'moss' | 'amber' | 'crimson'
withDefaults(defineProps<{ tone?: Tone | '' | null; mono?: boolean }>(), { tone: 'plain' })
const types = { plain: 'default', plum: 'info', moss: 'success', amber: 'warning', crimson: 'error' } as const
</script>

<template>
  <NTag size="small" :type="types[tone || 'plain']" :class="['fact', { mono }]"><slot /></NTag>
</template>
