import { computed, ref, watch } from 'vue'
import type { Schemas } from './api/http'
import { useStore } from './store'
import { useDo } from './useDo'

/** Starts long work on the server and follows it; `ended` is told when it is done or has failed. A stopped job stays to be seen and resumed. */
export function useJob(ended: (done: boolean) => void) {
  const store = useStore()
  const attempt = useDo()
  const id = ref('')
  const job = computed(() => (id.value ? store.jobs.get(id.value) : undefined))
  watch(
    () => job.value?.state,
    (state) => {
      if (state === 'done') id.value = ''
      if (state === 'done' || state === 'failed') ended(state === 'done')
    },
  )
  const start = (begin: () => Promise<Schemas['JobView']>) =>
    attempt(async () => {
      const started = await begin()
      if (!store.jobs.has(started.id)) store.jobs.set(started.id, started)
      id.value = started.id
    })
  return { job, start }
}
