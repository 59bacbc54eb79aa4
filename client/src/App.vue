<script setup lang="ts">
import { darkTheme, NConfigProvider, NDialogProvider, NMessageProvider, type GlobalThemeOverrides } from 'naive-ui'
import { useLocalStorage } from '@vueuse/core'
import { computed, defineAsyncComponent, onMounted, watchEffect } from 'vue'
import { useStore } from './shared/store'

const SignIn = defineAsyncComponent(() => import('./account/SignIn.vue'))
const AppFrame = defineAsyncComponent(() => import('./shared/frame/AppFrame.vue'))
const store = useStore()
const theme = useLocalStorage('theme', 'light')
watchEffect(() => (document.documentElement.dataset.theme = theme.value))
onMounted(() => void store.loadMe())
const overrides = computed<GlobalThemeOverrides>(() => ({
  common: {
    fontFamily: 'var(--sans)',
    fontFamilyMono: 'var(--mono)',
    primaryColor: theme.value === 'dark' ? '#d9855f' : '#9c4a2f',
    primaryColorHover: theme.value === 'dark' ? '#e59a78' : '#84391f',
    primaryColorPressed: '#84391f',
    borderRadius: '7px',
  },
}))
</script>

<template>
  <NConfigProvider :theme="theme === 'dark' ? darkTheme : null" :theme-overrides="overrides" style="height: 100%">
    <NMessageProvider placement="top">
      <NDialogProvider>
        <AppFrame v-if="store.me?.name" />
        <SignIn v-else-if="store.me" />
      </NDialogProvider>
    </NMessageProvider>
  </NConfigProvider>
</template>
