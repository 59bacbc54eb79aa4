<script setup lang="ts">
import { ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { change, newId, put } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

const store = useStore()
const router = useRouter()
const attempt = useDo()
const name = ref('')
const zone = ref(Intl.DateTimeFormat().resolvedOptions().timeZone || 'Europe/London')
const zones = Intl.supportedValuesOf('timeZone')
watch(
  () => store.project,
  (p) => {
    if (p?.siteId) void router.replace(store.may('engineer') && innerWidth > 700 ? '/plan' : '/operate')
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
        <label class="row"
          ><span>Name</span><input id="site-name" v-model="name" class="field" required maxlength="80" autofocus placeholder="as on the drawings"
        /></label>
        <label class="row"
          ><span>Time zone</span><input id="site-zone" v-model="zone" class="field" list="zones" required /><datalist id="zones">
            <option v-for="z in zones" :key="z" :value="z" /></datalist
        ></label>
        <button class="btn main">Make the site</button>
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
