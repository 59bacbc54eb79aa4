<script setup lang="ts">
import { ref, watch } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** Another setting to lay over: one parameter with another value, so that both can be seen before either is chosen. */
const props = defineProps<{ view: Schemas['BusDeviceView']; modelValue: Schemas['SettingText'][] }>()
const emit = defineEmits<{ 'update:modelValue': [settings: Schemas['SettingText'][]] }>()
const attempt = useDo()
const open = ref(false)
const words = ref('')
const found = ref<Schemas['ParameterView'][]>([])
watch([words, open], () => {
  if (open.value)
    void attempt(async () => {
      found.value = (
        await post('/bus/devices/{id}/parameters', { path: { id: props.view.device.id }, body: { words: words.value, differing: false, hidden: false } })
      ).slice(0, 12)
    })
})
const textOf = (path: string) => props.modelValue.find((s) => s.path === path)?.text ?? ''
function lay(path: string, text: string) {
  const rest = props.modelValue.filter((s) => s.path !== path)
  emit('update:modelValue', text.trim() ? [...rest, { path, text }] : rest)
}
</script>

<template>
  <NPopover trigger="click" :show="open" placement="bottom-end" @update:show="(s: boolean) => (open = s)">
    <template #trigger
      ><NButton id="lay-over">{{ modelValue.length ? `${modelValue.length} laid over` : 'Lay another setting over…' }}</NButton></template
    >
    <div class="over">
      <p class="dim">A parameter with another value; what would come of it is drawn dashed beside what comes now.</p>
      <TextBox v-model="words" placeholder="words of a parameter" aria-label="Words of a parameter to lay over" />
      <label v-for="p in found" :key="p.path"
        ><span
          >{{ p.channelTitle }} · {{ p.label }} <span class="dim tiny">now {{ p.said }}</span></span
        ><TextBox
          lazy
          mono
          size="small"
          :model-value="textOf(p.path)"
          :aria-label="`${p.label} of ${p.channelTitle}, laid over`"
          @update:model-value="(t: string) => lay(p.path, t)"
      /></label>
      <NButton v-if="modelValue.length" size="small" @click="emit('update:modelValue', [])">Take all away</NButton>
    </div>
  </NPopover>
</template>

<style scoped>
.over {
  display: grid;
  gap: 6px;
  width: 420px;
}
label {
  display: grid;
  grid-template-columns: 1fr 120px;
  gap: 8px;
  align-items: center;
}
</style>
