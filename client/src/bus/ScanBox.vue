<script setup lang="ts">
import { useRafFn } from '@vueuse/core'
import { onBeforeUnmount, onMounted, ref } from 'vue'
import { squareCode } from './squareCode'

/** Reads the square code of a sticker by the camera, or from a photo of it. */
const emit = defineEmits<{ read: [text: string]; close: [] }>()
const video = ref<HTMLVideoElement>()
const says = ref('Hold the square code of the sticker before the camera.')
const hasCamera = ref(false)
let stream: MediaStream | null = null
const canvas = document.createElement('canvas')
function look(source: CanvasImageSource, width: number, height: number) {
  // As much as a code needs: more only takes longer.
  const scale = Math.min(1, 900 / Math.max(width, height))
  canvas.width = Math.round(width * scale)
  canvas.height = Math.round(height * scale)
  const drawn = canvas.getContext('2d', { willReadFrequently: true })!
  drawn.drawImage(source, 0, 0, canvas.width, canvas.height)
  return squareCode(drawn.getImageData(0, 0, canvas.width, canvas.height))
}
const { pause } = useRafFn(
  () => {
    const v = video.value
    if (!v || v.readyState < v.HAVE_ENOUGH_DATA || !v.videoWidth) return
    const text = look(v, v.videoWidth, v.videoHeight)
    if (text) done(text)
  },
  { fpsLimit: 8 },
)
function done(text: string) {
  pause()
  emit('read', text)
}
onMounted(async () => {
  if (!navigator.mediaDevices)
    return void (says.value = 'This browser gives its camera only to pages that come over an encrypted connection. Take a photo of the sticker instead.')
  try {
    stream = await navigator.mediaDevices.getUserMedia({ video: { facingMode: 'environment' } })
    if (!video.value) return void stream.getTracks().forEach((t) => t.stop())
    video.value.srcObject = stream
    await video.value.play()
    hasCamera.value = true
  } catch {
    says.value = 'The camera cannot be used: there is none, or the browser was not allowed. Take a photo of the sticker instead.'
  }
})
onBeforeUnmount(() => stream?.getTracks().forEach((t) => t.stop()))
async function photo(file: File) {
  try {
    const image = await createImageBitmap(file)
    const text = look(image, image.width, image.height)
    image.close()
    if (text) done(text)
    else says.value = 'There is no square code in this photo, or it is blurred. Go nearer, and keep the sticker flat.'
  } catch {
    says.value = `‘${file.name}’ is no picture that this browser can read.`
  }
}
</script>

<template>
  <ModalBox label="Scan a sticker" @close="emit('close')">
    <h2>Scan a sticker</h2>
    <p role="status">{{ says }}</p>
    <video v-show="hasCamera" ref="video" muted playsinline aria-label="What the camera sees"></video>
    <p class="acts">
      <FilePick input-id="scan-photo" label="Photo of a sticker…" accept="image/*" @choose="photo" /><NButton @click="emit('close')">Leave</NButton>
    </p>
  </ModalBox>
</template>

<style scoped>
video {
  width: 100%;
  max-height: 320px;
  object-fit: cover;
  background: var(--sunk);
}
</style>
