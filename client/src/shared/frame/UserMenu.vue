<script setup lang="ts">
import { ref } from 'vue'
import { post } from '../api/http'
import { useStore } from '../store'
import { useLook, type Theme } from '../ui/useLook'
import { useDo } from '../useDo'
import { useUndo } from '../useUndo'

/** Who is signed in, what they may take back, how they want to see it, and the way out. */
const emit = defineEmits<{ keys: [] }>()
const store = useStore()
const attempt = useDo()
const undo = useUndo()
const open = ref(false)
const { theme, dense, percent } = useLook()
const themes: { value: Theme; label: string }[] = [
  { value: 'system', label: 'As the system' },
  { value: 'light', label: 'Light' },
  { value: 'dark', label: 'Dark' },
]
const rows = [
  { value: true, label: 'Dense' },
  { value: false, label: 'Comfortable' },
]
const sizes = [100, 115, 130].map((value) => ({ value, label: `${value} %` }))
const links = [
  ['/projects', 'Projects'],
  ['/history', 'Project history'],
  ['/operate/trail', 'Who did what on site'],
  ['/accounts', 'Accounts and password'],
] as const
async function leave() {
  await attempt(() => post('/sign-out'))
  await store.stop()
}
</script>

<template>
  <NPopover v-model:show="open" trigger="click" placement="bottom-end" :show-arrow="false" style="width: 290px">
    <template #trigger>
      <NButton circle class="who" :bordered="false" :aria-expanded="open" :title="`Signed in as ${store.me?.name} (${store.me?.role})`">
        {{ store.me?.name?.slice(0, 2).toUpperCase() }}
      </NButton>
    </template>
    <div class="menu">
      <p>
        <b>{{ store.me?.name }}</b> <span class="dim">{{ store.me?.role }}</span>
      </p>
      <NButton :disabled="!store.project?.undo || !store.may('engineer')" :title="store.project?.undo ?? ''" @click="undo(false)"
        >Undo <kbd>Ctrl Z</kbd></NButton
      >
      <NButton :disabled="!store.project?.redo || !store.may('engineer')" :title="store.project?.redo ?? ''" @click="undo(true)"
        >Redo <kbd>Ctrl Y</kbd></NButton
      >
      <LinkButton v-for="[to, label] in links" :key="to" :to="to" @click="open = false">{{ label }}</LinkButton>
      <NButton @click="((open = false), emit('keys'))">Keys of this page <kbd>?</kbd></NButton>
      <ChooseOne v-model="theme" :options="themes" size="small" label="Light or dark" />
      <ChooseOne v-model="dense" :options="rows" size="small" label="How close rows stand" />
      <ChooseOne v-model="percent" :options="sizes" size="small" label="Size of letters" />
      <NButton id="sign-out" @click="leave">Sign out</NButton>
    </div>
  </NPopover>
</template>

<style scoped>
.who {
  --n-color: #e08a5c !important;
  --n-color-hover: #eda078 !important;
  --n-color-focus: #eda078 !important;
  --n-color-pressed: #eda078 !important;
  --n-text-color: #2b2521 !important;
  --n-text-color-hover: #2b2521 !important;
  --n-text-color-focus: #2b2521 !important;
  --n-text-color-pressed: #2b2521 !important;
  font-size: 12px;
  flex: none;
}
.menu {
  display: grid;
  gap: 6px;
}
.menu kbd {
  margin-left: 8px;
}
</style>
