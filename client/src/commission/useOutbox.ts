import { useIntervalFn, useLocalStorage } from '@vueuse/core'
import { computed, ref } from 'vue'
import { ApiError, post, type Schemas } from '../shared/api/http'

type Entry = Schemas['CheckEntry']
/** What waits to be sent, as it was entered; it survives the page and the browser. */
const waiting = useLocalStorage<Entry[]>('checks-waiting', [])
const refused = ref<{ entry: Entry; why: string } | null>(null)
let busy = false

/** Sends what waits, oldest first; what the server refuses is put aside with its reason, what it does not answer stays. */
async function flush() {
  if (busy) return
  busy = true
  try {
    while (waiting.value.length) {
      const entry = waiting.value[0]!
      try {
        await post('/checks', { body: entry })
      } catch (e) {
        if (!(e instanceof ApiError) || e.status === 0 || e.status === 401 || e.status >= 500) return
        refused.value = { entry, why: e.message }
      }
      waiting.value = waiting.value.slice(1)
    }
  } finally {
    busy = false
  }
}

/** Checks on their way to the server: sent at once where it answers, kept and sent later where it does not. */
export function useOutbox() {
  useIntervalFn(flush, 5000)
  /** Sends a check, or keeps it; answers how it was kept by the server, or null while it waits. */
  async function send(entry: Entry): Promise<Schemas['KeptCheck'] | null> {
    try {
      return await post('/checks', { body: entry })
    } catch (e) {
      if (!(e instanceof ApiError) || e.status !== 0) throw e
      waiting.value = [...waiting.value, entry]
      return null
    }
  }
  return { send, flush, waiting: computed(() => waiting.value.length), refused }
}
