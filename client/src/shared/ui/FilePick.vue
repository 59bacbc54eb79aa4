<script setup lang="ts">
import { NButton, NUpload, NUploadDragger, type UploadFileInfo } from 'naive-ui'

/** A file to be chosen or dropped; it goes nowhere before it is asked for. */
defineProps<{ label: string; accept?: string; drop?: boolean; inputId?: string; main?: boolean; size?: 'small' | 'medium' }>()
const emit = defineEmits<{ choose: [file: File] }>()
function change({ file }: { file: UploadFileInfo }) {
  if (file.file) emit('choose', file.file)
  return false
}
</script>

<template>
  <NUpload
    :show-file-list="false"
    :default-upload="false"
    :accept="accept"
    :input-props="{ id: inputId, 'aria-label': label } as never"
    :file-list="[]"
    :style="drop ? '' : 'width: auto'"
    @change="change"
  >
    <NUploadDragger v-if="drop"><slot /></NUploadDragger>
    <NButton v-else :type="main ? 'primary' : 'default'" :size="size">{{ label }}</NButton>
  </NUpload>
</template>
