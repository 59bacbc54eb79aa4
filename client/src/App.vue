<script setup lang="ts">
import { dateEnGB, enGB, NConfigProvider, NDialogProvider, NMessageProvider } from 'naive-ui'
import { defineAsyncComponent, onMounted } from 'vue'
import { useStore } from './shared/store'
import { useLook } from './shared/ui/useLook'

const SignIn = defineAsyncComponent(() => import('./account/SignIn.vue'))
const AppFrame = defineAsyncComponent(() => import('./shared/frame/AppFrame.vue'))
const store = useStore()
const { library, overrides } = useLook()
onMounted(() => void store.loadMe())
</script>

<template>
  <NConfigProvider :theme="library" :theme-overrides="overrides" :locale="enGB" :date-locale="dateEnGB" inline-theme-disabled style="height: 100%">
    <NMessageProvider placement="top">
      <NDialogProvider>
        <AppFrame v-if="store.me?.name" />
        <SignIn v-else-if="store.me" />
      </NDialogProvider>
    </NMessageProvider>
  </NConfigProvider>
</template>
