<script setup lang="ts">
import { ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import { change, newId, put } from '../shared/api/records'
import { useDo } from '../shared/useDo'

/** An alarm: the point it watches, its limits, how long something must last, and what whoever sees it should do. */
const props = defineProps<{ line: Schemas['AlarmRuleLine'] | null }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const rule = props.line?.rule
const pointId = ref(rule?.pointId ?? '')
const unit = ref(props.line?.unit ?? '')
const name = ref(rule?.name ?? '')
const high = ref<number | null>(rule?.highLimit ?? null)
const low = ref<number | null>(rule?.lowLimit ?? null)
const deadband = ref<number | null>(rule?.deadband ?? 0.5)
const delay = ref<number | null>(rule?.delaySeconds ?? 60)
const back = ref<number | null>(rule?.delayNormalSeconds ?? 60)
const advice = ref(rule?.advice ?? '')
async function save() {
  const record = {
    id: rule?.id ?? newId('alarm'),
    name: name.value.trim(),
    pointId: pointId.value,
    highLimit: high.value,
    lowLimit: low.value,
    deadband: deadband.value ?? 0,
    delaySeconds: delay.value ?? 0,
    delayNormalSeconds: back.value ?? 0,
    advice: advice.value.trim() || null,
  }
  const done = await attempt(async () => {
    if (!pointId.value) throw new Error('Choose the point from the list that comes up while you type its name.')
    await change([put('alarm', record, props.line?.revision ?? 0)])
  }, 'Saved; it is watched once its controller has been sent')
  if (done) emit('close')
}
</script>

<template>
  <ModalBox :label="line ? 'Change an alarm' : 'Add an alarm'" wide @close="emit('close')">
    <form class="form" @submit.prevent="save">
      <h2>{{ line ? 'Change the alarm' : 'Add an alarm' }}</h2>
      <label class="row"
        ><span>Point</span
        ><RecordPicker
          id="alarm-point"
          nouns="point"
          :says="line ? `${line.path} › ${line.point}` : ''"
          placeholder="words of an analog point"
          aria-label="Point"
          :disabled="!!line"
          @choose="(hit) => (pointId = hit?.id ?? '')"
      /></label>
      <label class="row"><span>Name</span><TextBox id="alarm-name" v-model="name" required placeholder="Kiln room too warm" /></label>
      <label class="row"><span>High limit</span><NumberBox id="alarm-high" v-model="high" :unit="unit" /></label>
      <label class="row"><span>Low limit</span><NumberBox v-model="low" :unit="unit" aria-label="Low limit" /></label>
      <label class="row"><span>Deadband</span><NumberBox v-model="deadband" :unit="line?.deadbandUnit" aria-label="Deadband" /></label>
      <label class="row"><span>Delay to alarm</span><NumberBox id="alarm-delay" v-model="delay" unit="s" /></label>
      <label class="row"><span>Delay back</span><NumberBox v-model="back" unit="s" aria-label="Delay back" /></label>
      <label class="row"><span>Advice</span><TextBox id="alarm-advice" v-model="advice" maxlength="500" placeholder="what whoever sees it should do" /></label>
      <p class="acts">
        <NButton id="alarm-save" type="primary" attr-type="submit">{{ line ? 'Save' : 'Add it' }}</NButton><NButton @click="emit('close')">Close</NButton>
      </p>
    </form>
  </ModalBox>
</template>
