<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import type { Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import PlanTable from './PlanTable.vue'
import ReadBackPane from './ReadBackPane.vue'
import ReviewPane from './ReviewPane.vue'
import { send } from './send'
import SendPast from './SendPast.vue'
import SendRehearsal from './SendRehearsal.vue'
import StatePane from './StatePane.vue'

const props = defineProps<{ controller: string }>()
const store = useStore()
const attempt = useDo()
const jobId = ref('')
const job = computed(() => store.jobs.get(jobId.value))
const path = computed(() => ({ id: props.controller }))
const { value: review, problem, reload } = useShown('/commission/{id}', () => ({ path: path.value }), 'all')
const { value: plan } = useShown('/commission/{id}/plan', () => (store.may('technician') ? { path: path.value } : null), 'all')
const back = ref<InstanceType<typeof ReadBackPane>>()
/** Wires are built as an act of their own, before the program is sent; it can be left for later. */
const builds = ref(true)
const wires = computed(() => (builds.value ? (review.value?.wires.length ?? 0) : 0))
const steps: Record<Schemas['BuildStep'], string> = { build: '+ wire', change: '~ rewire', takeAway: '− take off' }
const words = computed(() => (wires.value ? 'Wire and send' : 'Send'))
const isMet = computed(() => review.value?.isMet)
function begin() {
  return attempt(async () => (jobId.value = await send(props.controller, builds.value)))
}
</script>

<template>
  <PageShell :title="review ? `Send ${review.name}` : 'Send'" :problem="problem" @again="reload">
    <template v-if="review" #facts>
      <FactTag :tone="review.installed ? 'moss' : 'amber'">{{ review.installed ? `● runs version ${review.version}` : '○ runs nothing yet' }}</FactTag><FactTag
        >{{ (review.bytes / 1024).toFixed(1) }} kB</FactTag
      ><FactTag mono :title="review.designHash">design {{ review.designHash.slice(0, 10) }}</FactTag>
    </template>
    <template v-if="review && store.may('technician')" #actions>
      <NButton :disabled="!review.installed" @click="back?.read()">Read back and compare</NButton>
      <NButton v-if="isMet" id="send" type="primary" :disabled="job?.state === 'running' || (!review.differences.length && !wires)" @click="begin">{{
        words
      }}</NButton>
      <LinkButton v-else id="meet" main :to="`/commission/contact/${controller}`">Set it up</LinkButton>
    </template>
    <template v-if="review">
      <JobProgress v-if="job" :job="job" />
      <div v-for="f in review.findings" :key="f.key" class="bar" :class="f.severity">
        <b>{{ f.what }}</b> <span class="dim">{{ f.path }} · {{ f.why }}</span>
      </div>
      <div class="cols">
        <div class="sheet">
          <h2>
            What will change <FactTag>{{ review.differences.length }}</FactTag>
          </h2>
          <ReviewPane :controller="controller" />
        </div>
        <div class="sheet">
          <h2>
            What the electrician will do <FactTag>{{ review.wires.length }}</FactTag>
          </h2>
          <p v-if="!review.wires.length" class="dim">✓ Wired as drawn.</p>
          <template v-else>
            <NCheckbox id="builds" v-model:checked="builds">Wire the virtual site as the wiring list says, before sending</NCheckbox>
            <p class="dim">
              {{ builds ? 'Wires of other controllers stay as they are.' : 'Until they are wired, these terminals read “nothing connected”.' }}
              <RouterLink to="/commission/build">All that is to be built</RouterLink>
            </p>
            <p v-for="w in review.wires" :key="w.terminal ?? ''">
              <span class="mono">{{ w.terminal }}</span> {{ steps[w.step] }}: <b>{{ w.name }}</b> <span v-if="w.detail" class="dim">{{ w.detail }}</span>
            </p>
          </template>
        </div>
        <div v-if="store.may('technician')" class="sheet plan" data-plan>
          <h2>What goes over</h2>
          <NSkeleton v-if="!plan" text :repeat="8" />
          <p v-else-if="plan.trouble" class="bar" :class="plan.plan ? 'medium' : 'crimson'">{{ plan.trouble }}</p>
          <PlanTable v-if="plan?.plan" :plan="plan.plan" />
        </div>
        <div class="sheet">
          <h2>How it goes</h2>
          <ol>
            <li>The program goes over in pieces and is laid beside the one that runs.</li>
            <li>Only when it is whole and has been checked does the controller change over, between two scans.</li>
            <li>Until then, and if anything goes wrong, the old program runs. What was stopped is resumed where it stopped.</li>
            <li>What blocks remember, holds, alarms and samples go on where their records stay.</li>
          </ol>
        </div>
        <SendRehearsal v-if="review.installed" :controller="controller" />
        <SendPast :controller="controller" />
        <StatePane :controller="controller" />
      </div>
      <ReadBackPane ref="back" :controller="controller" />
    </template>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 3fr) minmax(0, 2fr);
  gap: 12px;
  align-items: start;
}
.plan {
  /* Room for what will be known in a moment. */
  min-height: 300px;
}
ol {
  margin: 6px 0 0;
  padding-left: 20px;
  display: grid;
  gap: 4px;
}
@media (max-width: 700px) {
  .cols {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
