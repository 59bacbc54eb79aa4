<script setup lang="ts">
import { NButton } from 'naive-ui'
import { computed } from 'vue'
import { useLink, type RouteLocationRaw } from 'vue-router'

/** A button that leads somewhere: a page of ours by `to`, a file to take away by `href`. */
const props = defineProps<{
  to?: RouteLocationRaw
  href?: string
  main?: boolean
  /** Goes to the address rather than taking it away as a file. */ open?: boolean
  size?: 'tiny' | 'small' | 'medium'
}>()
const link = props.to === undefined ? null : useLink({ to: computed(() => props.to!) })
</script>

<template>
  <NButton
    tag="a"
    :type="main ? 'primary' : 'default'"
    :size="size"
    :href="href ?? link?.href.value"
    :download="href && !open ? '' : undefined"
    @click="(e: MouseEvent) => link?.navigate(e)"
    ><slot
  /></NButton>
</template>
