<script setup lang="ts">
/** Work in steps: which there are, which one is on, and those that can be gone to, back or ahead. Where one stood is kept by whoever uses it, so that it can be left and taken up. */
const props = defineProps<{ steps: readonly { key: string; title: string; says?: string; ready: boolean }[] }>()
const step = defineModel<string>('step', { required: true })
const at = () => props.steps.findIndex((s) => s.key === step.value) + 1
const go = (n: number) => props.steps[n - 1]?.ready && (step.value = props.steps[n - 1]!.key)
</script>

<template>
  <section class="wizard">
    <NSteps :current="at()" size="small" @update:current="go">
      <NStep
        v-for="s in steps"
        :key="s.key"
        :title="s.title"
        :description="s.says"
        :disabled="!s.ready"
        :tabindex="s.ready ? 0 : -1"
        role="button"
        :aria-current="s.key === step ? 'step' : undefined"
        :data-step="s.key"
        @keydown.enter="s.ready && (step = s.key)"
      />
    </NSteps>
    <slot :name="step" />
  </section>
</template>

<style scoped>
.wizard {
  display: grid;
  gap: 12px;
  min-width: 0;
}
</style>
