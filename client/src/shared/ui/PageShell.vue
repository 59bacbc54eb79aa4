<script setup lang="ts">
import { useTitle } from '@vueuse/core'
import { computed } from 'vue'
import { useRoute } from 'vue-router'
import { address, tabOf, tabsOf, type Page } from '../../pages'
import { useStore } from '../store'
import ErrorState from './ErrorState.vue'

/** What every page stands in: its title, facts about it, the tabs of its phase, its actions, and why it could not be shown where it could not. */
const props = defineProps<{ title?: string; lede?: string; problem?: string }>()
const emit = defineEmits<{ again: [] }>()
const route = useRoute()
const store = useStore()
const page = computed(() => route.meta.page as Page | undefined)
const name = computed(() => props.title ?? page.value?.title ?? '')
const tabs = computed(() => (page.value?.phase ? tabsOf(page.value.phase).filter((p) => !p.role || store.may(p.role)) : []))
const own = computed(() => page.value && tabOf(page.value))
useTitle(() => `${name.value} · ${store.project?.name ?? 'Lofty Wren'}`)
</script>

<template>
  <div class="page" :class="{ fills: page?.fills }">
    <div class="head">
      <h1>{{ name }}</h1>
      <slot name="facts" />
      <span v-if="lede" class="dim">{{ lede }}</span>
      <span class="space" />
      <slot name="actions" />
      <nav v-if="tabs.length > 1" class="tabs" :aria-label="`Pages of ${page?.phase}`">
        <RouterLink v-for="t in tabs" :key="t.path" :to="address(t)" :class="{ on: t === own }" :aria-current="t === page ? 'page' : undefined">{{
          t.tab
        }}</RouterLink>
      </nav>
    </div>
    <ErrorState v-if="problem" :problem="problem" @again="emit('again')" />
    <slot />
  </div>
</template>
