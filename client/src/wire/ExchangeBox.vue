<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Another model in the place of a device: which points stay, which move, which find no terminal, before it is done. */
const props = defineProps<{ panel: Schemas['Panel']; device: Schemas['RailDevice'] }>()
const emit = defineEmits<{ close: [] }>()
const attempt = useDo()
const path = { id: props.panel.controller.id }
const moduleId = props.device.module?.id
const model = ref<string | null>(null)
const { value: catalogue } = useShown('/catalogue', () => ({}), ['hardwareModel'])
const options = computed(() =>
  (catalogue.value ?? [])
    .filter((m) => m.runsPrograms === !moduleId && m.id !== props.device.model?.id)
    .map((m) => ({ value: m.id, label: `${m.name} · ${m.widthMillimetres} mm · ${m.price} EUR` })),
)
const { value: preview, problem } = useShown(
  '/controllers/{id}/exchange',
  () => (model.value ? { path, query: { model: model.value, module: moduleId } } : null),
  ['fitting', 'module', 'controller'],
)
async function apply() {
  const body = { modelId: model.value!, moduleId: moduleId ?? null } as never
  if (await attempt(() => post('/controllers/{id}/exchange', { path, body }), 'Replaced. Ctrl Z brings it back.')) emit('close')
}
</script>

<template>
  <ModalBox label="Replace" wide @close="emit('close')">
    <h2>Replace {{ device.module?.name ?? panel.controller.name }}, {{ device.model?.name }}</h2>
    <PickOne v-model="model" :options="options" placeholder="the model that comes" aria-label="The model that comes" />
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="preview">
      <p>
        <b>{{ preview.sentence }}</b>
      </p>
      <NTable v-if="preview.moves.length" size="small" :bordered="false" class="close">
        <tbody>
          <tr v-for="m in preview.moves" :key="m.from">
            <td class="mono">{{ m.from }}</td>
            <td class="mono">{{ m.to ? `→ ${m.to}` : '✕' }}</td>
            <td>
              <b>{{ m.name }}</b> <span class="dim">{{ m.path }}</span><span v-if="m.why" class="wrong"><br />{{ m.why }}</span>
            </td>
          </tr>
        </tbody>
      </NTable>
    </template>
    <p class="acts">
      <NButton id="exchange-do" type="primary" :disabled="!preview" @click="apply">Replace</NButton><NButton @click="emit('close')">Keep it</NButton>
    </p>
  </ModalBox>
</template>
