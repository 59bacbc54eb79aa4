<script setup lang="ts" generic="T">
import { useWindowSize } from '@vueuse/core'
import { NButton, NDataTable, NDropdown, type DataTableInst } from 'naive-ui'
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { count } from '../numbers'
import { matching } from '../words'
import { inOrder, stepTo, type Action, type Column, type Sorting } from './records'
import { tableColumns } from './tableColumns'
import TextBox from './TextBox.vue'

/**
 * A list of records of one sort. A row carries what helps to choose; one row is chosen, by a click or the arrow keys, its details
 * stand beside it (slot `details`); Enter opens it, its actions wait in one menu (⋯, or the menu key), several are ticked and acted on
 * at once. Only the rows that are seen are drawn.
 */
const props = defineProps<{
  rows: readonly T[]
  columns: readonly Column<T>[]
  id: (row: T) => string
  noun: string
  plural: string
  /** The words a filter finds a row by; without it there is no filter. */
  words?: (row: T) => string
  actions?: readonly Action<T>[]
  /** The page of a row. */
  page?: (row: T) => string | null
  mark?: (row: T) => string
  /** Where the list is one of several on its page, how high it may be, in pixels. */
  most?: number
}>()
const chosen = defineModel<string | null>('chosen', { default: null })
const slots = defineSlots<Record<string, (given: { row: T }) => unknown>>()
const router = useRouter()
const wrap = ref<HTMLElement>()
const table = ref<DataTableInst>()
const filter = ref('')
const ticked = ref<string[]>([])
const menu = shallowRef<{ row: T; x: number; y: number } | null>(null)
const { height } = useWindowSize()
const top = ref(200)
const found = computed(() => (props.words ? matching(props.rows, props.words, filter.value) : [...props.rows]))
const many = computed(() => (props.actions ?? []).filter((a) => a.many))
const tickedRows = computed(() => found.value.filter((r) => ticked.value.includes(props.id(r))))
const current = computed(() => found.value.find((r) => props.id(r) === chosen.value))
const offered = (row: T) => (props.actions ?? []).filter((a) => !a.when || a.when(row))
const measure = () => void nextTick(() => wrap.value && (top.value = wrap.value.getBoundingClientRect().top))
onMounted(measure)
const FEW = 15
const isLong = computed(() => found.value.length > 80)
const room = computed(() => (isLong.value ? Math.max(260, Math.min(props.most ?? Infinity, height.value - top.value - 70)) : props.most))
watch(
  found,
  (rows) => {
    if (!rows.some((r) => props.id(r) === chosen.value)) chosen.value = rows.length ? props.id(rows[0]!) : null
    measure()
  },
  { immediate: true },
)
function tick(rows: readonly T[], on: boolean) {
  const ids = new Set(rows.map(props.id))
  ticked.value = [...ticked.value.filter((k) => !ids.has(k)), ...(on ? ids : [])]
}
function openMenu(row: T, x: number, y: number) {
  chosen.value = props.id(row)
  menu.value = { row, x, y }
}
const columns = computed(() =>
  tableColumns<T>({
    ...props,
    slots,
    ticks: many.value.length ? { rows: found.value, has: (r) => ticked.value.includes(props.id(r)), set: tick } : null,
    offered,
    openMenu,
  }),
)
function go(row: T) {
  const page = props.page?.(row)
  if (page) void router.push(page)
}
async function choose(index: number) {
  const row = sorted()[index]
  if (!row) return
  chosen.value = props.id(row)
  if (isLong.value) table.value?.scrollTo({ index } as never)
  await nextTick()
  wrap.value?.querySelector<HTMLElement>(`tr[data-row="${CSS.escape(props.id(row))}"]`)?.focus({ preventScroll: isLong.value })
}
/** The rows as they stand on the screen, which may have been put in another order by a click on a head. */
const sorter = ref<Sorting | null>(null)
const sortBy = (s: { columnKey: string | number; order: string | false } | null) =>
  (sorter.value = s?.order ? { key: String(s.columnKey), down: s.order === 'descend' } : null)
const sorted = () => inOrder(found.value, props.columns, sorter.value)
function key(e: KeyboardEvent, row: T) {
  if ((e.target as HTMLElement).tagName !== 'TR') return
  const at = sorted().indexOf(row)
  const next = stepTo(e.key, at, found.value.length)
  const action = offered(row).find((a) => a.key && a.key.toLowerCase() === e.key.toLowerCase() && !e.ctrlKey && !e.metaKey)
  if (next !== at) void choose(next)
  else if (e.key === 'Enter') go(row)
  else if (e.key === ' ' && many.value.length) tick([row], !ticked.value.includes(props.id(row)))
  else if (action) action.run([row])
  else if (e.key === 'ContextMenu' || (e.key === 'F10' && e.shiftKey) || e.key === '.') {
    const box = (e.currentTarget as HTMLElement).getBoundingClientRect()
    if (offered(row).length) openMenu(row, box.right - 40, box.bottom)
  } else return
  e.preventDefault()
}
const rowProps = (row: T) => ({
  'data-row': props.id(row),
  class: [props.id(row) === chosen.value ? 'chosen' : '', props.mark?.(row) ?? ''].join(' '),
  tabindex: props.id(row) === chosen.value ? 0 : -1,
  'aria-current': props.id(row) === chosen.value ? ('true' as const) : undefined,
  onClick: () => (chosen.value = props.id(row)),
  onFocus: () => (chosen.value = props.id(row)),
  onDblclick: () => go(row),
  onKeydown: (e: KeyboardEvent) => key(e, row),
  onContextmenu: (e: MouseEvent) => {
    if (!offered(row).length) return
    e.preventDefault()
    openMenu(row, e.clientX, e.clientY)
  },
})
function run(at: number) {
  const { row } = menu.value!
  menu.value = null
  void offered(row)[at]!.run([row])
}
</script>

<template>
  <section class="records" :class="{ beside: $slots.details }" :aria-label="plural">
    <div class="list">
      <div v-if="(words && rows.length > FEW) || $slots.tools || tickedRows.length" class="head tools">
        <TextBox
          v-if="words && rows.length > FEW"
          v-model="filter"
          class="filter"
          placeholder="filter by words of name or place"
          :aria-label="`Filter the ${plural}`"
        />
        <span v-if="filter.trim()" class="dim" role="status">{{ count(found.length) }} of {{ count(rows.length) }} {{ plural }}</span>
        <slot name="tools" :row="undefined as never" />
        <template v-if="tickedRows.length">
          <b>{{ count(tickedRows.length) }} ticked</b>
          <NButton
            v-for="a in many"
            :key="a.label"
            size="small"
            :disabled="!tickedRows.some((r) => !a.when || a.when(r))"
            @click="a.run(tickedRows.filter((r) => !a.when || a.when(r)))"
            >{{ a.label }}</NButton
          >
          <NButton size="small" quaternary @click="ticked = []">Untick</NButton>
        </template>
      </div>
      <p v-if="rows.length && !found.length" class="dim">No {{ noun }} has all of these words. <NButton text @click="filter = ''">Show all</NButton></p>
      <div v-else ref="wrap">
        <NDataTable
          ref="table"
          size="small"
          :columns="columns as never"
          :data="found as never"
          :row-key="id as never"
          :row-props="rowProps as never"
          :virtual-scroll="isLong"
          :max-height="room"
          :min-row-height="30"
          :bordered="true"
          :single-line="true"
          @update:sorter="sortBy"
        />
      </div>
    </div>
    <aside v-if="$slots.details" class="sheet details" tabindex="0" :aria-label="`The ${noun}`">
      <slot v-if="current" name="details" :row="current" />
      <p v-else class="dim">Choose a {{ noun }} to see more of it.</p>
    </aside>
    <NDropdown
      v-if="menu"
      trigger="manual"
      placement="bottom-end"
      show
      :x="menu.x"
      :y="menu.y"
      :options="offered(menu.row).map((a, i) => ({ key: i, label: a.key ? `${a.label}  (${a.key})` : a.label }))"
      @select="run"
      @clickoutside="menu = null"
    />
  </section>
</template>

<style scoped>
.records {
  display: grid;
  gap: 12px;
  min-width: 0;
}
.records.beside {
  grid-template-columns: minmax(0, 1fr) 320px;
  align-items: start;
}
.list {
  min-width: 0;
  display: grid;
  gap: 8px;
}
.tools:empty {
  display: none;
}
.filter {
  width: 300px;
  max-width: 100%;
}
.details {
  display: grid;
  gap: 8px;
  position: sticky;
  top: 0;
  max-height: calc(100vh - 190px);
  overflow: auto;
}
.records :deep(tr.chosen td) {
  background: var(--plum-soft) !important;
}
.records :deep(th) {
  white-space: nowrap;
  font-size: 12.5px;
}
.records :deep(a:not(.n-button)) {
  text-decoration: none;
}
/* Which column rows are in order of is seen; that the others could be, only where one points. */
.records :deep(th:not(:hover) .n-data-table-sorter:not(.n-data-table-sorter--asc, .n-data-table-sorter--desc)) {
  opacity: 0;
}
.records :deep(tr:focus-visible) {
  outline-offset: -2px;
}
.records :deep(td.num) {
  font-family: var(--mono);
  font-size: 0.93em;
  white-space: nowrap;
}
@media (max-width: 700px) {
  .records.beside {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
