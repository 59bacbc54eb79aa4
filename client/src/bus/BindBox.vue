<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** A point that is heard or said under a group address, so that schedules, trends, alarms, views and sequences use it like any other. */
const props = defineProps<{ group: Schemas['AddressLine'] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const { value: controllers } = useShown('/controllers', () => ({}), ['controller'])
const point = ref('')
const controller = ref('')
const again = ref<number | null>(null)
const options = computed(() => [
  { value: '', label: 'the one that holds the point' },
  ...(controllers.value ?? []).filter((c) => c.controller.busLineId).map((c) => ({ value: c.controller.id, label: c.controller.name })),
])
const bind = async () => {
  if (
    await attempt(
      () =>
        post('/bus/bind', {
          body: { groupId: props.group.id, pointId: point.value, controllerId: controller.value || undefined, againMinutes: again.value ?? undefined },
        }),
      'Bound',
    )
  )
    emit('close')
}
</script>

<template>
  <ModalBox label="Bind a point" @close="emit('close')">
    <form @submit.prevent="bind">
      <h2>
        Bind a point to <span class="mono">{{ group.number }}</span>
      </h2>
      <p class="dim">
        {{ group.name }}, {{ group.type }} {{ group.typeName }}. A sensor hears it; a command says it whenever it is another, and again so often: left empty, as
        often as those who hear it ask for; 0: never.
      </p>
      <label class="row"
        ><span>Point</span
        ><RecordPicker id="bind-point" nouns="point" placeholder="words of a point" aria-label="Point" @choose="(hit) => (point = hit?.id ?? '')"
      /></label>
      <label class="row"><span>By</span><PickOne v-model="controller" :options="options" aria-label="By controller" /></label>
      <label class="row"
        ><span>Again every</span><NumberBox id="bind-again" v-model="again" unit="min" aria-label="A command is said again every, min"
      /></label>
      <p class="acts">
        <NButton id="bind-do" type="primary" attr-type="submit" :disabled="!point">Bind it</NButton><NButton @click="emit('close')">Leave</NButton>
      </p>
    </form>
  </ModalBox>
</template>
