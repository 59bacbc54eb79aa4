<script setup lang="ts">
import { useElementSize, useScroll } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { kinds as allKinds } from '../../api/kinds'
import { count } from '../../numbers'
import { useLive, useStore } from '../../store'
import GridHead, { type GridAsks } from './GridHead.vue'
import GridReplace from './GridReplace.vue'
import GridTools from './GridTools.vue'
import { useGridCells } from './useGridCells'
import { useGridColumns } from './useGridColumns'
import { ROW, useGridRows } from './useGridRows'

/** The records of one kind in what is selected, edited in place like a spreadsheet; only the rows that are seen are fetched and drawn. */
const props = defineProps<{ scope: string; title: string }>()
const emit = defineEmits<{ remove: [ids: string[]] }>()
const store = useStore()
const kinds = allKinds.filter((k) => k.columns.length > 1)
/** The kind of record that is listed; points, unless another is chosen. */
const kindKey = ref('point')
const kind = computed(() => kinds.find((k) => k.key === kindKey.value)!)
const noun = computed(() => kind.value.nouns[0]!.noun)
const plural = computed(() => kind.value.nouns[0]!.plural)
const capital = (text: string) => text[0]!.toUpperCase() + text.slice(1)
const isPoints = computed(() => kind.value.key === 'point')
const sort = ref('')
/** What the list is narrowed down and grouped by. */
const asks = ref<GridAsks>({ words: '', filter: '', group: '' })
const asked = computed(() => ({ key: kind.value.key, scope: props.scope, sort: sort.value, ...asks.value }))
watch(kindKey, () => {
  sort.value = ''
  at.value = { r: 0, c: 0 }
})
const root = ref<HTMLElement>()
const scroller = ref<HTMLElement>()
const { y } = useScroll(scroller)
const { height } = useElementSize(scroller)
const at = ref({ r: 0, c: 0 })
const rows = useGridRows(
  asked,
  y,
  height,
  computed(() => at.value.r),
)
const { total, filterError, groups, count: lineCount, firstLine, lastLine, lines } = rows
const { all, ordered, columns, hidden, move } = useGridColumns(kind)
useLive(() => (isPoints.value ? rows.rows.value.flatMap((n) => (rows.at(n) ? [`p:${rows.at(n)!.id}`] : [])) : []))
const cells = useGridCells(at, {
  kind,
  scope: () => props.scope,
  title: () => props.title,
  plural,
  all,
  columns,
  rows,
  root,
  reveal(row) {
    const top = rows.top(row)
    if (scroller.value && (top < y.value || top > y.value + height.value - 2 * ROW)) scroller.value.scrollTop = Math.max(0, top - height.value / 2)
  },
})
const { editing, text, may, proposal } = cells
const replacing = ref(false)
const sortBy = (key: string) => (sort.value = sort.value === key ? `-${key}` : sort.value === `-${key}` ? '' : key)
const sorted = (key: string) => (sort.value === key ? 'ascending' : sort.value === `-${key}` ? 'descending' : 'none')
const drawn = computed(() => lines.value.map((l) => ({ r: l.row ?? -1, head: l.head, row: l.row === undefined ? undefined : rows.at(l.row) })))
const isAt = (r: number, i: number) => editing.value && at.value.r === r && at.value.c === i
function focus(r: number, c: number) {
  if (!editing.value && (at.value.r !== r || at.value.c !== c)) at.value = cells.from.value = { r, c }
}
</script>

<template>
  <section ref="root" class="points" :aria-label="capital(plural)" @copy="cells.copy" @paste="cells.paste">
    <GridHead
      v-model:asks="asks"
      v-model:kind="kindKey"
      :title="title"
      :total="total"
      :groups="groups"
      :problem="filterError"
      @properties="store.selected = scope"
      @jump="(row) => cells.goto(row, 0)"
    >
      <NButton v-if="may" size="small" @click="replacing = true">Replace…</NButton>
      <GridTools v-model:hidden="hidden" :ordered="ordered" @move="move" />
    </GridHead>
    <div ref="scroller" class="scroll" :class="{ long: total > 40 }">
      <table @keydown="cells.key($event, (ids) => emit('remove', ids))">
        <thead>
          <tr>
            <th v-for="c in columns" :key="c.key" :style="{ textAlign: c.isNumber ? 'right' : 'left' }" :aria-sort="sorted(c.key)">
              <NButton text class="sort" @click="sortBy(c.key)"
                >{{ c.label }}{{ c.unit ? `, ${c.unit}` : '' }} {{ { ascending: '↑', descending: '↓', none: '' }[sorted(c.key)] }}</NButton
              >
            </th>
            <th>Check</th>
            <th v-if="isPoints" style="text-align: right">Now</th>
          </tr>
        </thead>
        <tbody>
          <tr v-if="firstLine > 0" :style="{ height: firstLine * ROW + 'px' }" aria-hidden="true">
            <td :colspan="columns.length + 2"></td>
          </tr>
          <template v-for="{ r, head, row } in drawn" :key="head ? `g${head.from}` : r">
            <tr v-if="head" class="group">
              <td :colspan="columns.length + 2">
                <b>{{ head.label }}</b> <span class="dim">{{ head.count }}</span>
              </td>
            </tr>
            <tr v-else-if="!row">
              <td :colspan="columns.length + 2" class="dim">…</td>
            </tr>
            <tr v-else :class="{ sel: store.selected === row.id }">
              <td
                v-for="(c, i) in columns"
                :key="c.key"
                :class="{ num: c.isNumber, in: cells.isIn(r, i) }"
                tabindex="0"
                :data-cell="`${r},${i}`"
                @focus="focus(r, i)"
                @mousedown.shift.prevent="at = { r, c: i }"
                @dblclick="cells.edit()"
              >
                <template v-if="isAt(r, i)">
                  <select v-if="c.choices.length" v-model="text" class="cell-edit" :aria-label="c.label" @change="cells.commit()" @blur="cells.commit()">
                    <option v-for="o in c.choices" :key="o">{{ o }}</option>
                  </select>
                  <input v-else v-model="text" class="cell-edit" :aria-label="c.label" @blur="cells.commit()" />
                </template>
                <template v-else
                  ><b v-if="i === 0">{{ row.name }}</b
                  ><template v-else>{{ cells.show(row, c.key) }}</template
                  ><span v-if="c.isShown && c.hint && !cells.show(row, c.key)" class="wrong">{{ c.hint }}</span>
                  <span v-if="i === 0 && row.ownerId !== scope" class="dim tiny"
                    >&nbsp; {{ isPoints ? row.owner : row.path.split(' › ').slice(-2).join(' › ') }}</span
                  ></template
                >
              </td>
              <td>
                <span v-if="row.findings" style="color: var(--amber)" :title="row.worstFinding ?? ''">▲ {{ row.findings }}</span
                ><span v-else title="no findings">✓</span>
              </td>
              <td v-if="isPoints" class="num">
                <NButton text class="now" :title="`Why? Open the dossier of ${row.name}`" @click="store.selected = row.id"
                  ><LiveValue :id="`p:${row.id}`"
                /></NButton>
              </td>
            </tr>
          </template>
          <tr v-if="lastLine < lineCount" :style="{ height: (lineCount - lastLine) * ROW + 'px' }" aria-hidden="true">
            <td :colspan="columns.length + 2"></td>
          </tr>
          <tr v-if="may && kind.canBegin">
            <td :id="`new-${kind.key}`" tabindex="0" :data-cell="`${total},0`" @focus="focus(total, 0)" @click="cells.edit()">
              <input v-if="editing && at.r === total" v-model="text" class="cell-edit" :placeholder="`name of the new ${noun}`" @blur="cells.commit()" />
              <span v-else class="dim">+ type a name for a new {{ kind.nouns[0]!.one ?? noun }}</span>
            </td>
            <td :colspan="columns.length + 1"></td>
          </tr>
        </tbody>
      </table>
    </div>
    <p class="dim tiny"><kbd>Ctrl C</kbd> <kbd>Ctrl V</kbd> spreadsheet · <kbd>Ctrl D</kbd> fill down · <kbd>Ctrl ⇧ D</kbd> series</p>
    <ChangePreview
      v-if="proposal"
      :title="`${count(proposal.view.count)} changes`"
      :lines="proposal.view.lines.map((what) => ({ what }))"
      :total="proposal.view.count"
      make="Make them"
      @make="cells.applyProposal()"
      @close="proposal = null"
    />
    <GridReplace
      v-if="replacing"
      :kind="kind.key"
      :plural="plural"
      :total="total"
      :scope="scope"
      :words="asks.words"
      :filter="asks.filter"
      @close="replacing = false"
    />
  </section>
</template>

<style scoped>
.points {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.scroll {
  overflow: auto;
}
.scroll.long {
  max-height: 62vh;
}
table {
  border-collapse: collapse;
  width: 100%;
}
th {
  position: sticky;
  top: 0;
  background: var(--paper);
  z-index: 1;
  text-align: left;
  padding: 5px 10px;
  border-bottom: 1px solid var(--rule);
  white-space: nowrap;
  font-weight: 500;
  font-size: 12.5px;
  color: var(--ink-2);
}
.sort {
  --n-text-color: var(--ink-2) !important;
  font-weight: 500;
  font-size: 12.5px;
}
td {
  white-space: nowrap;
  height: 30px;
  padding: 0 10px;
  border-bottom: 1px solid var(--rule);
  cursor: cell;
}
tr.sel td,
td.in {
  background: var(--plum-soft);
}
.group td {
  background: var(--sunk);
}
.cell-edit {
  width: 100%;
  min-width: 80px;
  padding: 1px 4px;
  font: inherit;
  color: inherit;
  background: var(--sheet);
  border: 1px solid var(--plum);
  border-radius: 5px;
}
.now {
  --n-text-color-hover: inherit !important;
  font-weight: 400;
}
</style>
