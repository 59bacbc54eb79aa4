import { useIntervalFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch, type Ref, type ShallowRef } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** The last scans of a sequence where it runs: kept while one looks back, stepped through, stopped on a condition, one laid against another. */
export function useScans(id: () => string, past: ShallowRef<Map<string, Schemas['LiveValue']> | null>) {
  const attempt = useDo()
  const path = computed(() => ({ id: id() }))
  const isOpen = ref(false)
  const kept = shallowRef<Schemas['KeptScans'] | null>(null)
  /** The scan that is looked at, by its number; none while what is now is shown. */
  const number: Ref<number | null> = ref(null)
  /** A scan that others are laid against. */
  const mark = ref<number | null>(null)
  const differences = shallowRef<Schemas['ScanDifference'][]>([])
  const last = computed(() => (kept.value ? kept.value.first + kept.value.at.length - 1 : 0))
  const at = (n: number) => (kept.value ? (kept.value.at[n - kept.value.first] ?? null) : null)

  async function keep(stop: Schemas['ScanStop'] | null) {
    const now = await attempt(async () => void (kept.value = await post('/sequences/{id}/scans', { path: path.value, body: { stop } })))
    if (now) number.value = null
    return now
  }
  async function open() {
    isOpen.value = await keep(null)
  }
  function close() {
    isOpen.value = false
    number.value = mark.value = null
  }
  const refresh = async () => {
    if (!isOpen.value) return
    kept.value = await get('/sequences/{id}/scans', { path: path.value }).catch(() => kept.value)
    if (number.value !== null && kept.value && number.value < kept.value.first) number.value = kept.value.first
  }
  useIntervalFn(refresh, 1500)
  // What stopped is shown as it was at that moment.
  watch(
    () => kept.value?.stoppedAt,
    (n) => n != null && (number.value = n),
  )
  watch([number, mark], async ([n, m]) => {
    if (n === null) {
      past.value = null
      differences.value = []
      return
    }
    const values = await get('/sequences/{id}/scans/{number}', { path: { ...path.value, number: n } }).catch(() => null)
    if (number.value !== n) return
    past.value = values && new Map(values.map((v) => [v.id, v]))
    differences.value =
      m === null ? [] : await get('/sequences/{id}/scans/{number}/against/{other}', { path: { ...path.value, number: n, other: m } }).catch(() => [])
  })
  watch(id, close)
  function step(by: number) {
    if (!kept.value?.at.length) return
    number.value = Math.min(last.value, Math.max(kept.value.first, (number.value ?? last.value) + by))
  }
  return { isOpen, kept, number, mark, differences, last, at, keep, open, close, step }
}
export type Scans = ReturnType<typeof useScans>
