<script setup lang="ts">
import { useMediaQuery } from '@vueuse/core'
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { change, newId, put } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

const store = useStore()
const router = useRouter()
const attempt = useDo()
const name = ref('')
const zones = Intl.supportedValuesOf('timeZone')
const zone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone || zones[0]!)
const isPhone = useMediaQuery('(max-width: 700px)')
watch(
  () => store.project,
  (p) => {
    if (p?.siteId) void router.replace(store.may('engineer') && !isPhone.value ? '/plan' : '/operate')
  },
  { immediate: true },
)
const make = () => attempt(() => change([put('place', { id: newId('site'), name: name.value.trim(), kind: 'site', timeZone: zone.value }, 0)]))
</script>

<template>
  <div class="page">
    <form v-if="store.project && !store.project.siteId" class="sheet first" @submit.prevent="make">
      <h1>Begin with the site</h1>
      <p class="dim">Buildings, floors and rooms go into it; its time zone rules every schedule.</p>
      <template v-if="store.may('engineer')">
        <label class="row"><span>Name</span><TextBox id="site-name" v-model="name" required maxlength="80" autofocus placeholder="as on the drawings" /></label>
        <label class="row"><span>Time zone</span><PickOne id="site-zone" v-model="zone" :options="zones" aria-label="Time zone" /></label>
        <NButton type="primary" attr-type="submit">Make the site</NButton>
        <p class="dim">
          Or <RouterLink to="/history">take over a project file</RouterLink>, or open another of the <RouterLink to="/projects">projects</RouterLink>.
        </p>
      </template>
      <p v-else>An engineer must make the site first.</p>
    </form>
  </div>
</template>

<style scoped>
.first {
  width: min(480px, 100%);
  margin: 8vh auto;
  padding: 24px;
  display: grid;
  gap: 8px;
}
</style>
