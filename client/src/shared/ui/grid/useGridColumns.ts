import { useLocalStorage } from '@vueuse/core'
import { computed, type Ref } from 'vue'
import type { Schemas } from '../../api/http'

/** The columns of a grid of one kind, as somebody chose them on this computer: some hidden, in an order of their own; the name stays first. */
export function useGridColumns(kind: Ref<{ key: string; columns: Schemas['FieldView'][] }>) {
  const hiddenOf = useLocalStorage<Record<string, string[]>>('grid-hidden', { point: ['description', 'networkName'] })
  const orderOf = useLocalStorage<Record<string, string[]>>('grid-order', {})
  const hidden = computed({
    get: () => hiddenOf.value[kind.value.key] ?? [],
    set: (keys) => (hiddenOf.value = { ...hiddenOf.value, [kind.value.key]: keys }),
  })
  const all = computed(() => kind.value.columns)
  const order = computed(() => orderOf.value[kind.value.key] ?? [])
  const place = (key: string) => (order.value.includes(key) ? order.value.indexOf(key) : all.value.findIndex((c) => c.key === key) + 100)
  const ordered = computed(() => [...all.value.slice(0, 1), ...all.value.slice(1).sort((a, b) => place(a.key) - place(b.key))])
  const columns = computed(() => ordered.value.filter((c) => !hidden.value.includes(c.key)))
  function move(key: string, by: 1 | -1) {
    const keys = ordered.value.slice(1).map((c) => c.key)
    const i = keys.indexOf(key)
    const [one] = keys.splice(i, 1)
    keys.splice(Math.max(0, i + by), 0, one!)
    orderOf.value = { ...orderOf.value, [kind.value.key]: keys }
  }
  return { all, ordered, columns, hidden, move }
}
