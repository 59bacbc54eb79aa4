<script setup lang="ts">
import { useElementSize } from '@vueuse/core'
import { computed, nextTick, ref, shallowRef, watch } from 'vue'
import { change, newId, put, type Block, type Sequence, type Source } from '../shared/api/records'
import { get, post, type Schemas } from '../shared/api/http'
import { Flag, useLive, useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { layOut, settingsOf, shownInputs, sourceKey, type Diagram, type DiagramLine } from './diagram'
import ClauseList from './ClauseList.vue'
import SourceInput from './SourceInput.vue'
import TableInput from './TableInput.vue'
import { NSelect } from 'naive-ui'

const props = defineProps<{ sequence: string }>()
const store = useStore()
const attempt = useDo()
const {
  value: view,
  problem,
  reload,
} = useLoaded<Schemas['SequenceView']>(
  () => get(`/sequences/${props.sequence}`),
  () => props.sequence,
  ['sequence', 'point', 'schedule', 'controller', 'fitting', 'equipment', 'place'],
)
const { value: blocks } = useLoaded<Schemas['BlockView'][]>(() => get('/blocks'), undefined, [])
const { value: controllers } = useLoaded<Schemas['ControllerLine'][]>(() => get('/controllers'), undefined, ['controller'])
const definitions = computed(() => new Map((blocks.value ?? []).map((b) => [b.definition.kind as string, b.definition])))
const diagram = shallowRef<Diagram | null>(null)
watch([view, definitions], async ([v, d]) => {
  if (v && d.size) diagram.value = await layOut(v, d)
})
const may = computed(() => store.may('engineer'))
const s = computed(() => view.value?.sequence ?? null)
const picked = ref<string[]>([])
const held = ref<Source | null>(null)
const heldFrom = ref('')
const words = ref('')
const wordsAt = ref(0)
const wordsOpen = ref(false)
const outputWords = ref('')
const outputHits = ref<Schemas['SourceGuess'][]>([])
const canvas = ref<HTMLElement>()
const { width: canvasWidth } = useElementSize(canvas)
const zoom = computed(() => (diagram.value ? Math.min(1.25, (canvasWidth.value || 600) / diagram.value.width) : 1))
useLive(() => [
  ...(view.value?.reads ?? []).map((r) => r.liveId),
  ...(s.value?.blocks ?? []).flatMap((b) => (definitions.value.get(b.kind)?.outputs ?? []).map((o) => `b:${s.value!.id}/${b.id}/${o.name}`)),
  ...(view.value?.ladders ?? []).map((l) => `p:${l.pointId}`),
])
const byId = (id: string) => s.value?.blocks?.find((b) => b.id === id)
const readBy = (key: string) => view.value?.reads.find((r) => r.key === key)
const ladderBy = (id: string) => view.value?.ladders.find((l) => `o:${l.pointId}` === id)
const block = computed(() => (picked.value.length === 1 ? byId(picked.value[0]!) : undefined))
const output = computed(() => (picked.value.length === 1 ? ladderBy(picked.value[0]!) : undefined))
const command = computed(() => s.value?.commands?.find((c) => c.pointId === output.value?.pointId))
const help = computed(() => blocks.value?.find((b) => b.definition.kind === block.value?.kind)?.help)
const found = computed(() => {
  const w = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (blocks.value ?? []).map((b) => b.definition).filter((d) => w.every((x) => `${d.name} ${d.words} ${d.kind}`.toLowerCase().includes(x)))
})
/** What a node of the diagram is called: a block by its id, an output as o:id. */
const called = (id: string) => (id.startsWith('o:') ? (ladderBy(id)?.name ?? 'an output') : byId(id) ? say(byId(id)!) : 'a block')
const say = (b: Block) => b.label || definitions.value.get(b.kind)?.name || b.kind
const live = (id: string) => store.live.get(id)
/** What arrives at an input pin: the value of its source, converted where the line converts. */
function arrives(blockId: string, pin: string) {
  const source = byId(blockId)?.inputs?.[pin]
  if (!source) return { text: 'open', f: Flag.released }
  if (source.from === 'constant') return { text: sourceText(source), f: 0 }
  const value = source.from === 'block' ? pinLive(source.blockId, source.pin ?? 'out') : live(sourceKey(source)!)
  if (!value) return { text: '–', f: Flag.released }
  const c = view.value?.conversions.find((x) => x.blockId === blockId && x.pin === pin)
  if (!c || value.v == null) return value
  return { text: `${(value.v * Number(c.factor) + Number(c.offset)).toFixed(1)} ${c.to}`, f: value.f }
}
const mark = (f: number) => (f & Flag.fault ? '✕' : f & Flag.stale ? '◇' : f & Flag.overridden ? '◐' : '')
const pinLive = (b: string, pin = 'out') => live(`b:${s.value?.id}/${b}/${pin}`)

const ladders = ref(new Map<string, Schemas['LadderView']>())
watch(
  () => [
    view.value?.ladders.map((l) => `${l.pointId}${live(`p:${l.pointId}`)?.text}${live(`p:${l.pointId}`)?.f}`).join(),
    (s.value?.blocks ?? []).map((b) => pinLive(b.id)?.f).join(),
    store.eventsTick,
  ],
  async () => {
    for (const l of view.value?.ladders ?? []) {
      const ladder = await get<Schemas['LadderView']>(`/ladders/${l.pointId}`).catch(() => null)
      if (ladder) ladders.value.set(l.pointId, ladder)
    }
  },
  { immediate: true },
)
const rungNow = (pointId: string, priority: number) => ladders.value.get(pointId)?.rungs.find((r) => r.priority === priority)

async function save(next: Sequence, label?: string): Promise<boolean> {
  const done = await attempt(() => change([put('sequence', next, Number(view.value!.revision))], label))
  await reload()
  return done
}
const withBlock = (id: string, patch: Partial<Block>): Sequence => ({
  ...s.value!,
  blocks: s.value!.blocks!.map((b) => (b.id === id ? { ...b, ...patch } : b)),
})

async function insert(kind: string) {
  const d = definitions.value.get(kind)!
  const id = newId(kind.toLowerCase().slice(0, 8))
  words.value = ''
  wordsOpen.value = false
  if (await save({ ...s.value!, blocks: [...(s.value!.blocks ?? []), { id, kind: kind as Block['kind'] }] }, `Inserted ${d.name} into ‘${s.value!.name}’`)) {
    picked.value = [id]
    await nextTick()
    setTimeout(() => document.querySelector<HTMLInputElement>('.inspect .wrap input')?.focus(), 50)
  }
}
async function setInput(id: string, pin: string, source: Source | null) {
  const inputs = { ...byId(id)!.inputs }
  if (source) inputs[pin] = source
  else delete inputs[pin]
  await save(withBlock(id, { inputs }), source ? `Connected ${pin} of ‘${say(byId(id)!)}’` : `Took the connection off ${pin} of ‘${say(byId(id)!)}’`)
}
async function setClaim(pointId: string, priority: number, patch: Partial<Schemas['Claim']> | null) {
  const commands = s.value!.commands!.map((c) =>
    c.pointId === pointId ? { ...c, claims: c.claims!.flatMap((k) => (k.priority === priority ? (patch ? [{ ...k, ...patch }] : []) : [k])) } : c,
  )
  await save({ ...s.value!, commands })
}
async function addClaim() {
  const priority = output.value!.freePriority
  if (priority == null)
    return void attempt(() => {
      throw new Error(`Every priority of ‘${output.value!.name}’ that logic should take is taken. Remove a claim first.`)
    })
  await save(
    {
      ...s.value!,
      commands: s.value!.commands!.map((c) => (c.pointId === output.value!.pointId ? { ...c, claims: [...(c.claims ?? []), { priority }] } : c)),
    },
    `Added claim ${priority} on ‘${output.value!.name}’`,
  )
}
async function findOutput() {
  outputHits.value = outputWords.value.trim()
    ? (await post<Schemas['SourceGuess'][]>(`/sequences/${props.sequence}/sources`, { text: outputWords.value })).filter((g) => g.source.from === 'point')
    : []
}
async function addOutput(g: Schemas['SourceGuess'] | undefined) {
  if (!g || g.source.from !== 'point') return
  const pointId = g.source.pointId
  outputWords.value = ''
  outputHits.value = []
  if (s.value!.commands?.some((c) => c.pointId === pointId)) {
    picked.value = [`o:${pointId}`]
    return
  }
  if (await save({ ...s.value!, commands: [...(s.value!.commands ?? []), { pointId, claims: [] }] }, `‘${s.value!.name}’ commands ‘${g.name}’`))
    picked.value = [`o:${pointId}`]
}
async function remove() {
  const gone = new Set(picked.value)
  const lost = (x: Source | null | undefined) => x?.from === 'block' && gone.has(x.blockId)
  const kept = (s.value!.blocks ?? [])
    .filter((b) => !gone.has(b.id))
    .map((b) => ({ ...b, inputs: Object.fromEntries(Object.entries(b.inputs ?? {}).filter(([, x]) => !lost(x))) }))
  const commands = (s.value!.commands ?? [])
    .filter((c) => !gone.has(`o:${c.pointId}`))
    .map((c) => ({ ...c, claims: c.claims?.map((k) => (lost(k.source) ? { ...k, source: null } : k)) }))
  const n = picked.value.length
  picked.value = []
  await save({ ...s.value!, blocks: kept, commands }, `Deleted ${n} part${n === 1 ? '' : 's'} of ‘${s.value!.name}’`)
}
async function duplicate() {
  const map = new Map(picked.value.filter(byId).map((id) => [id, newId('copy')]))
  if (!map.size) return
  const copies = [...map].map(([id, fresh]) => {
    const b = byId(id)!
    return {
      ...b,
      id: fresh,
      inputs: Object.fromEntries(
        Object.entries(b.inputs ?? {}).map(([pin, x]) => [pin, x.from === 'block' && map.has(x.blockId) ? { ...x, blockId: map.get(x.blockId)! } : x]),
      ),
    }
  })
  if (
    await save(
      { ...s.value!, blocks: [...s.value!.blocks!, ...copies] },
      `Duplicated ${copies.length} block${copies.length === 1 ? '' : 's'} of ‘${s.value!.name}’`,
    )
  )
    picked.value = [...map.values()]
}
async function retype(kind: string) {
  const b = block.value!
  const d = definitions.value.get(kind)!
  const names = new Set(d.inputs.map((i) => i.name))
  const old = Object.values(b.inputs ?? {})
  // Pins of the same name keep their source; the rest go onto free pins in order.
  const inputs = Object.fromEntries(Object.entries(b.inputs ?? {}).filter(([pin]) => names.has(pin)))
  const spare = old.filter((x) => !Object.values(inputs).includes(x))
  for (const pin of d.inputs) if (!inputs[pin.name] && spare.length) inputs[pin.name] = spare.shift()!
  await save(withBlock(b.id, { kind: kind as Block['kind'], inputs, numbers: {}, choices: {}, tables: null, texts: null }), `Made ‘${say(b)}’ a ${d.name}`)
}
/** What Space has gathered; walking on with Tab does not lose it. */
let kept: string[] = []
function pick(id: string, e: MouseEvent | FocusEvent) {
  if (e instanceof MouseEvent) kept = []
  const add = e instanceof MouseEvent && (e.ctrlKey || e.shiftKey || e.metaKey)
  if (add) picked.value = picked.value.includes(id) ? picked.value.filter((x) => x !== id) : [...picked.value, id]
  else if (!picked.value.includes(id) || e instanceof MouseEvent) picked.value = [id]
  if (id.startsWith('o:') && !add) store.selected = null
}
function takeHold(source: Source, name: string) {
  held.value = source
  heldFrom.value = name
}
async function pinClick(node: string, pin: string) {
  if (!held.value || !may.value) return
  const source = held.value
  held.value = null
  if (node.startsWith('o:')) {
    const [owner, priority] = pin.split('@')
    if (owner === s.value!.id) await setClaim(node.slice(2), Number(priority), { source })
  } else await setInput(node, pin, source)
}
function key(e: KeyboardEvent) {
  if ((e.target as HTMLElement).closest('input, select, textarea')) return
  if (e.key === 'Delete' && picked.value.length && may.value) void remove()
  else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'd' && may.value) void duplicate()
  else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'a') picked.value = (s.value?.blocks ?? []).map((b) => b.id)
  else if (e.key === 'b') document.querySelector<HTMLInputElement>('#insert')?.focus()
  else if (e.key === 'Escape' && (held.value || picked.value.length)) ((held.value = null), (picked.value = []))
  else if (e.key === ' ') {
    // Space takes the block with the focus into the selection, or out of it.
    const id = (e.target as HTMLElement).dataset.id
    if (!id) return
    picked.value = picked.value.includes(id) && picked.value.length > 1 ? picked.value.filter((x) => x !== id) : [...new Set([...kept, ...picked.value, id])]
    kept = picked.value
  } else if (e.key === 'Enter' && picked.value.length === 1) document.querySelector<HTMLInputElement>('.inspect .wrap input')?.focus()
  else return
  e.preventDefault()
  e.stopPropagation()
}
function lineClass(l: DiagramLine) {
  const v = live(l.liveId)
  const f = v?.f ?? Flag.released
  if (f & Flag.fault) return 'fault'
  if (f & Flag.stale) return 'stale'
  if (f & Flag.released) return 'released'
  const binary = l.binary || (v?.text !== undefined && !/[0-9]/.test(v.text) && v.v !== undefined)
  return binary ? (v!.v! > 0.5 ? 'on' : 'off') : 'analog'
}
function sourceText(source: Source | null | undefined): string {
  if (!source) return ''
  if (source.from === 'constant') return source.binary ? (source.value > 0.5 ? 'on' : 'off') : `${source.value}${source.unit ? ' ' + source.unit : ''}`
  if (source.from === 'block') {
    const b = byId(source.blockId)
    return b ? say(b) + (source.pin && source.pin !== 'out' ? ` · ${source.pin}` : '') : '?'
  }
  return readBy(sourceKey(source)!)?.name ?? '?'
}
const settingUnit = (blockId: string, name: string) => view.value?.settingUnits.find((u) => u.blockId === blockId && u.setting === name)?.unit ?? ''
const hasSettings = (d: Schemas['BlockType']) => !!(d.numbers.length || d.choices.length || d.texts?.length || d.tables?.length)
const offers = (blockId: string, name: string) =>
  (view.value?.textOffers.find((o) => o.blockId === blockId && o.setting === name)?.offers ?? []).map((value) => ({ label: value, value }))
const settings = (b: Block) => {
  const d = definitions.value.get(b.kind)!
  return [
    ...d.choices.map((c) => [c.label, c.options.find((o) => o.value === (b.choices?.[c.name] ?? c.options[0]!.value))!.label]),
    ...(d.texts ?? []).map((x) => [x.label, b.texts?.[x.name] || 'none yet']),
    ...(d.tables ?? []).map((x) => [x.label, `${(b.tables?.[x.name] ?? x.default).length} rows`]),
    ...d.numbers.map((n) => [n.label, `${b.numbers?.[n.name] ?? n.default} ${settingUnit(b.id, n.name)}`]),
  ].slice(0, settingsOf(d))
}
</script>

<template>
  <div class="page seq" @keydown="key">
    <p v-if="problem" class="wrong">{{ problem }}</p>
    <template v-if="view && s">
      <div class="head">
        <h1>{{ s.name }}</h1>
        <label class="pill"
          >runs on
          <select
            class="bare mono"
            :value="s.controllerId ?? ''"
            :disabled="!may"
            aria-label="Runs on"
            @change="save({ ...s, controllerId: ($event.target as HTMLSelectElement).value || null })"
          >
            <option value="">no controller</option>
            <option v-for="c in controllers ?? []" :key="c.controller.id" :value="c.controller.id">{{ c.controller.name }}</option>
          </select>
          every
          <input
            class="bare mono"
            type="number"
            step="0.1"
            min="0.1"
            style="width: 52px"
            :value="s.scanSeconds"
            :disabled="!may"
            aria-label="Scan period in seconds"
            @change="save({ ...s, scanSeconds: Number(($event.target as HTMLInputElement).value) })"
          />
          s</label
        >
        <span class="pill">{{ view.path }}</span>
        <span v-if="view.findings.length" class="pill amber">▲ {{ view.findings.length }} finding{{ view.findings.length === 1 ? '' : 's' }}</span
        ><span v-else class="pill moss">✓ checks pass</span> <span class="space" /><RouterLink class="btn" to="/program/help">Help on blocks</RouterLink>
      </div>
      <div class="cols">
        <div class="left">
          <div v-for="f in view.findings" :key="f.key" class="bar" :class="f.severity">
            <b>{{ f.what }}</b> <span class="dim">{{ f.why }}</span>
            <button
              v-for="(way, i) in may ? f.fixes : []"
              :key="way.label"
              class="btn small"
              @click="attempt(() => post('/findings/fix', { key: f.key, recordId: f.recordId, which: i, label: way.label }), way.label)"
            >
              {{ way.label }}
            </button>
          </div>
          <div ref="canvas" class="canvas sheet" @click.self="((picked = []), (held = null))">
            <div v-if="diagram" class="scaled" :style="{ width: diagram.width + 'px', minHeight: diagram.height + 'px', zoom }">
              <div class="lane" :style="{ left: 0, width: diagram.lanes[0] + 'px' }">Reads</div>
              <div class="lane mid" :style="{ left: diagram.lanes[0] + 'px', width: diagram.lanes[1] - diagram.lanes[0] + 'px' }">Decides</div>
              <div class="lane last" :style="{ left: diagram.lanes[1] + 'px' }">Commands</div>
              <svg :width="diagram.width" :height="diagram.height">
                <g v-for="l in diagram.lines" :key="l.id">
                  <path :d="l.path" :class="['line', lineClass(l)]" />
                  <text v-if="l.conversion" :x="l.middle.x" :y="l.middle.y" class="conversion">{{ l.conversion }}</text>
                </g>
              </svg>
              <template v-for="n in diagram.nodes" :key="n.id">
                <div
                  v-if="n.kind === 'read' && readBy(n.id)"
                  class="node read"
                  :style="{ left: n.x + 'px', top: n.y + 'px', width: n.width + 'px', height: n.height + 'px' }"
                  :class="{ on: heldFrom === n.id && held }"
                  tabindex="0"
                  :title="readBy(n.id)!.path"
                  @click="takeHold(n.id.startsWith('p:') ? { from: 'point', pointId: n.id.slice(2) } : { from: 'schedule', scheduleId: n.id.slice(2) }, n.id)"
                  @dblclick="n.id.startsWith('p:') && (store.selected = n.id.slice(2))"
                  @keydown.enter.stop="store.selected = n.id.slice(2)"
                >
                  <b>{{ readBy(n.id)!.name }}</b>
                  <span class="mono"
                    >{{ live(n.id)?.text ?? '–' }} <span class="dim">{{ readBy(n.id)!.where ?? 'not wired' }}</span></span
                  >
                </div>
                <div
                  v-else-if="n.kind === 'block' && byId(n.id)"
                  class="node block"
                  :class="{ on: picked.includes(n.id) }"
                  :style="{ left: n.x + 'px', top: n.y + 'px', width: n.width + 'px', height: n.height + 'px' }"
                  tabindex="0"
                  :data-block="byId(n.id)!.kind"
                  :data-id="n.id"
                  @click.stop="pick(n.id, $event)"
                  @focus="pick(n.id, $event)"
                >
                  <b class="title">{{ say(byId(n.id)!) }}</b>
                  <span v-for="[k, v] in settings(byId(n.id)!)" :key="k" class="set"
                    ><span class="dim">{{ k }}</span
                    ><span class="mono">{{ v }}</span></span
                  >
                  <span v-for="p in shownInputs(byId(n.id)!, definitions.get(byId(n.id)!.kind)!)" :key="p.name" class="pinrow"
                    ><span>{{ p.label }}</span
                    ><span
                      class="mono arrives"
                      :class="{ none: Number(arrives(n.id, p.name).f) & Flag.released, fault: Number(arrives(n.id, p.name).f) & Flag.fault }"
                      :data-arrives="p.name"
                      >{{ mark(Number(arrives(n.id, p.name).f)) }} {{ arrives(n.id, p.name).text }}</span
                    ></span
                  >
                  <button
                    v-for="p in n.inputs"
                    :key="p.pin"
                    class="pin in"
                    :class="{ open: !byId(n.id)!.inputs?.[p.pin] }"
                    :style="{ top: p.y - 6 + 'px' }"
                    tabindex="-1"
                    :title="held ? `Connect to ${p.pin}` : `${p.pin}: click an output first, then here; or type a source at the right`"
                    @click.stop="held ? pinClick(n.id, p.pin) : pick(n.id, $event)"
                  />
                  <button
                    v-for="p in n.outputs"
                    :key="p.pin"
                    class="badge mono"
                    :class="{
                      true: pinLive(n.id, p.pin)?.text === 'on',
                      none: (pinLive(n.id, p.pin)?.f ?? 32) & 32,
                      held: heldFrom === n.id + p.pin && held,
                    }"
                    :style="{ top: p.y - 24 + 'px' }"
                    tabindex="-1"
                    :title="`${p.pin}: click, then click an input to connect`"
                    @click.stop="takeHold({ from: 'block', blockId: n.id, pin: p.pin }, n.id + p.pin)"
                  >
                    {{ pinLive(n.id, p.pin)?.text ?? '–' }}
                  </button>
                </div>
                <div
                  v-else-if="ladderBy(n.id)"
                  class="node output"
                  :class="{ on: picked.includes(n.id) }"
                  :style="{ left: n.x + 'px', top: n.y + 'px', width: n.width + 'px', height: n.height + 'px' }"
                  tabindex="0"
                  :data-output="n.id.slice(2)"
                  :data-id="n.id"
                  @click.stop="pick(n.id, $event)"
                  @focus="pick(n.id, $event)"
                >
                  <span class="title"
                    ><b>{{ ladderBy(n.id)!.name }}</b
                    ><span class="state mono" :class="{ true: (live('p:' + n.id.slice(2))?.v ?? 0) > 0.5 }">{{
                      live('p:' + n.id.slice(2))?.text ?? '–'
                    }}</span></span
                  >
                  <span v-for="r in ladderBy(n.id)!.rungs" :key="r.priority" class="rung" :class="{ wins: rungNow(n.id.slice(2), Number(r.priority))?.wins }">
                    <i class="mono">{{ r.priority }}</i><span>{{ r.label }}</span
                    ><span class="mono dim"
                      >{{ rungNow(n.id.slice(2), Number(r.priority))?.says?.split(' (')[0] ?? '' }}
                      {{ rungNow(n.id.slice(2), Number(r.priority))?.wins ? '◀' : '' }}</span
                    ></span
                  >
                  <span class="rung" :class="{ wins: ladders.get(n.id.slice(2))?.winner === 0 }"
                    ><i class="mono">–</i><span>Fallback</span
                    ><span class="mono dim">{{ ladderBy(n.id)!.fallback }} {{ ladders.get(n.id.slice(2))?.winner === 0 ? '◀' : '' }}</span></span
                  >
                  <button
                    v-for="p in n.inputs"
                    :key="p.pin"
                    class="pin in"
                    :style="{ top: p.y - 6 + 'px' }"
                    tabindex="-1"
                    :title="held ? 'Connect here' : p.pin.split('@')[1]"
                    @click.stop="pinClick(n.id, p.pin)"
                  />
                </div>
              </template>
            </div>
            <p v-if="!s.blocks?.length && !s.commands?.length" class="empty">
              Nothing here yet. Insert a block by typing words below, and an output to command; then connect them.
            </p>
          </div>
          <div v-if="may" class="head inserts">
            <span class="wrap2"
              ><input
                id="insert"
                v-model="words"
                class="field"
                placeholder="Insert a block: type words, such as two-position or delay"
                aria-label="Insert a block"
                @focus="wordsOpen = true"
                @blur="wordsOpen = false"
                @input="((wordsAt = 0), (wordsOpen = true))"
                @keydown.down.prevent="wordsAt = Math.min(found.length - 1, wordsAt + 1)"
                @keydown.up.prevent="wordsAt = Math.max(0, wordsAt - 1)"
                @keydown.enter.prevent="found[wordsAt] && insert(found[wordsAt]!.kind)"
                @keydown.esc.stop="wordsOpen = false"
              />
              <span v-if="wordsOpen" class="sheet list up"
                ><button v-for="(d, i) in found" :key="d.kind" :class="{ on: i === wordsAt }" @mousedown.prevent="insert(d.kind)">
                  <b>{{ d.name }}</b> <span class="dim">{{ d.group }}</span>
                </button></span
              ></span
            >
            <span class="wrap2"
              ><input
                id="insert-output"
                v-model="outputWords"
                class="field"
                placeholder="Command an output: type words of its name"
                aria-label="Command an output"
                @input="findOutput"
                @keydown.enter.prevent="findOutput().then(() => addOutput(outputHits[0]))"
                @blur="outputHits = []"
              />
              <span v-if="outputHits.length" class="sheet list up"
                ><button v-for="g in outputHits" :key="g.path + g.name" @mousedown.prevent="addOutput(g)">
                  <b>{{ g.name }}</b> <span class="dim">{{ g.path }}</span>
                </button></span
              ></span
            >
            <span class="dim" style="font-size: 12.5px"
              ><kbd>B</kbd> block · click an output, then an input · <kbd>Del</kbd> · <kbd>Ctrl D</kbd> twice · <kbd>Space</kbd> more</span
            >
          </div>
          <ClauseList :sequence="s" :picked="picked" :may="may" :say="called" :save="save" @show="picked = $event" />
        </div>
        <aside class="inspect sheet" aria-label="Properties">
          <template v-if="held"
            ><p class="bar decides">
              Now click the input that takes <b>{{ sourceText(held) }}</b>. <kbd>Esc</kbd> lets go.
            </p></template
          >
          <template v-if="block">
            <span class="dim">Block</span>
            <label class="row"
              ><span>Kind</span
              ><select class="field" :value="block.kind" :disabled="!may" @change="retype(($event.target as HTMLSelectElement).value)">
                <option v-for="b in blocks ?? []" :key="b.definition.kind" :value="b.definition.kind">{{ b.definition.name }}</option>
              </select></label
            >
            <label class="row"
              ><span>Label</span
              ><input
                class="field"
                :value="block.label ?? ''"
                :placeholder="definitions.get(block.kind)?.name"
                :disabled="!may"
                maxlength="60"
                @change="save(withBlock(block.id, { label: ($event.target as HTMLInputElement).value.trim() || null }))"
            /></label>
            <h3>Inputs</h3>
            <label v-for="p in shownInputs(block, definitions.get(block.kind)!)" :key="p.name" class="row"
              ><span>{{ p.label }}{{ p.required ? '' : ' (may stay open)' }}</span
              ><SourceInput
                :sequence-id="s.id"
                :says="sourceText(block.inputs?.[p.name])"
                :disabled="!may"
                :label="`Source of ${p.label}`"
                :data-pin="p.name"
                @choose="(x) => setInput(block!.id, p.name, x)"
            /></label>
            <h3 v-if="hasSettings(definitions.get(block.kind)!)">Settings</h3>
            <label v-for="c in definitions.get(block.kind)!.choices" :key="c.name" class="row"
              ><span>{{ c.label }}</span
              ><select
                class="field"
                :value="block.choices?.[c.name] ?? c.options[0]!.value"
                :disabled="!may"
                :data-choice="c.name"
                @change="save(withBlock(block.id, { choices: { ...block.choices, [c.name]: ($event.target as HTMLSelectElement).value } }))"
              >
                <option v-for="o in c.options" :key="o.value" :value="o.value">{{ o.label }}</option>
              </select></label
            >
            <label v-for="n in definitions.get(block.kind)!.numbers" :key="n.name" class="row"
              ><span>{{ n.label }}</span
              ><span
                ><input
                  class="field mono"
                  type="number"
                  step="any"
                  style="width: 88px"
                  :value="block.numbers?.[n.name] ?? n.default"
                  :disabled="!may"
                  :data-number="n.name"
                  @change="save(withBlock(block.id, { numbers: { ...block.numbers, [n.name]: Number(($event.target as HTMLInputElement).value) } }))"
                />
                {{ settingUnit(block.id, n.name) }}</span
              ></label
            >
            <label v-for="x in definitions.get(block.kind)!.texts" :key="x.name" class="row"
              ><span>{{ x.label }}</span
              ><NSelect
                size="small"
                style="width: 168px"
                :value="block.texts?.[x.name] || null"
                :options="offers(block.id, x.name)"
                :disabled="!may"
                :data-text="x.name"
                filterable
                tag
                clearable
                placeholder="choose"
                @update:value="(v: string | null) => save(withBlock(block!.id, { texts: v ? { ...block!.texts, [x.name]: v.trim() } : null }))"
            /></label>
            <TableInput
              v-for="x in definitions.get(block.kind)!.tables"
              :key="x.name"
              :setting="x"
              :rows="block.tables?.[x.name] ?? x.default"
              :x-unit="settingUnit(block.id, x.name + '.x')"
              :y-unit="settingUnit(block.id, x.name + '.y')"
              :disabled="!may"
              @change="(rows) => save(withBlock(block!.id, { tables: { ...block!.tables, [x.name]: rows } }))"
            />
            <label v-if="definitions.get(block.kind)!.choosesUnit" class="row"
              ><span>Output unit</span
              ><input
                class="field mono"
                :value="block.outputUnit ?? ''"
                :disabled="!may"
                placeholder="%"
                @change="save(withBlock(block.id, { outputUnit: ($event.target as HTMLInputElement).value.trim() || null }))"
            /></label>
            <p v-if="may" class="acts">
              <button class="btn small" @click="duplicate">Duplicate</button><button class="btn small" @click="remove">Delete</button>
            </p>
            <template v-if="help">
              <p>{{ help.summary }}</p>
              <p class="mono formula">{{ help.formula }}</p>
              <p class="dim">{{ help.status }}</p>
              <p class="dim">{{ help.edges }}</p>
            </template>
          </template>
          <template v-else-if="output">
            <span class="dim">Commanded output · {{ output.where ?? 'not wired' }}</span>
            <h2>{{ output.name }}</h2>
            <p class="dim">{{ output.path }}</p>
            <h3>Claims of this sequence</h3>
            <div v-for="k in command?.claims ?? []" :key="k.priority" class="claim">
              <label class="row"
                ><span>Priority</span
                ><input
                  class="field mono"
                  type="number"
                  min="1"
                  max="16"
                  :value="k.priority"
                  :disabled="!may"
                  data-claim="priority"
                  @change="setClaim(output!.pointId, Number(k.priority), { priority: Number(($event.target as HTMLInputElement).value) })"
              /></label>
              <label class="row"
                ><span>Label</span
                ><input
                  class="field"
                  :value="k.label ?? ''"
                  :disabled="!may"
                  data-claim="label"
                  @change="setClaim(output!.pointId, Number(k.priority), { label: ($event.target as HTMLInputElement).value })"
              /></label>
              <label class="row"
                ><span>Source</span
                ><SourceInput
                  :sequence-id="s.id"
                  :says="sourceText(k.source)"
                  :disabled="!may"
                  label="Source of the claim"
                  data-pin="claim"
                  @choose="(x) => setClaim(output!.pointId, Number(k.priority), { source: x })"
              /></label>
              <button v-if="may" class="btn small" @click="setClaim(output!.pointId, Number(k.priority), null)">Remove this claim</button>
            </div>
            <p v-if="may" class="acts">
              <button id="add-claim" class="btn main small" @click="addClaim">Add a claim</button
              ><button class="btn small" @click="store.selected = output.pointId">Why? Dossier</button
              ><button class="btn small" @click="remove">Take the output out</button>
            </p>
            <p v-if="ladders.get(output.pointId)" class="dim">{{ ladders.get(output.pointId)!.ifReleased }}</p>
          </template>
          <template v-else-if="picked.length > 1"
            ><h2>{{ picked.length }} selected</h2>
            <p v-if="may" class="acts">
              <button class="btn small" @click="duplicate">Duplicate</button><button class="btn small" @click="remove">Delete</button>
            </p></template
          >
          <p v-else-if="!held" class="dim">
            Choose a block or an output to see and change it. Lines: thick is on, thin is off or a number, dotted is released, dashed is stale or in fault.
          </p>
        </aside>
      </div>
    </template>
  </div>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 290px;
  gap: 12px;
  flex: 1;
  min-height: 0;
  align-items: start;
}
.left {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-width: 0;
}
.canvas {
  padding: 0;
  overflow: auto;
  min-height: min(380px, 45vh);
  position: relative;
  display: flex;
}
.scaled {
  position: relative;
  flex: 1 0 auto;
}
.scaled svg {
  position: absolute;
  inset: 0;
  pointer-events: none;
}
.lane {
  position: absolute;
  top: 0;
  bottom: 0;
  padding: 8px 14px;
  font-size: 12.5px;
  color: var(--ink-2);
}
.lane.mid {
  border-left: 1px dashed var(--rule);
  border-right: 1px dashed var(--rule);
  background: var(--paper);
}
.lane.last {
  right: 0;
  text-align: right;
}
.node {
  position: absolute;
  cursor: pointer;
}
.read {
  display: flex;
  flex-direction: column;
  overflow: hidden;
  white-space: nowrap;
  border-right: 3px solid var(--ink-3);
}
.read.on {
  background: var(--plum-soft);
}
.block,
.output {
  background: var(--sheet);
  border: 1.5px solid var(--ink-3);
  border-radius: 8px;
  padding: 4px 10px;
  display: flex;
  flex-direction: column;
}
.block.on,
.output.on {
  border-color: var(--plum);
  box-shadow: 0 0 0 3px var(--plum-soft);
}
.block .title {
  height: 22px;
  overflow: hidden;
  white-space: nowrap;
  text-overflow: ellipsis;
}
.set {
  display: flex;
  justify-content: space-between;
  font-size: 12px;
  height: 17px;
  white-space: nowrap;
  overflow: hidden;
}
.pinrow {
  font-size: 12px;
  height: 18px;
  color: var(--ink-2);
  margin-left: 2px;
  display: flex;
  justify-content: space-between;
  gap: 6px;
  white-space: nowrap;
}
.arrives {
  color: var(--ink);
  overflow: hidden;
  text-overflow: ellipsis;
}
.arrives.none {
  color: var(--ink-2);
  font-style: italic;
}
.arrives.fault {
  color: var(--crimson);
}
.pin {
  position: absolute;
  left: -7px;
  width: 12px;
  height: 12px;
  border-radius: 50%;
  border: 2px solid var(--ink-2);
  background: var(--ink-2);
  padding: 0;
  cursor: crosshair;
}
.pin.open {
  background: var(--sheet);
}
.pin:hover {
  border-color: var(--plum);
  background: var(--plum);
}
.badge {
  position: absolute;
  right: 8px;
  border: 1px solid var(--ink-3);
  background: var(--sunk);
  border-radius: 5px;
  font-size: 11.5px;
  padding: 0 6px;
  cursor: crosshair;
  height: 19px;
}
.badge.true,
.state.true {
  background: var(--plum);
  border-color: var(--plum);
  color: var(--sheet);
}
.badge.none {
  border-style: dashed;
  background: var(--sheet);
}
.badge.held {
  outline: 2px solid var(--russet);
}
.output {
  padding: 0;
}
.output .title {
  height: 33px;
  display: flex;
  justify-content: space-between;
  align-items: center;
  padding: 0 10px;
  border-bottom: 1px solid var(--rule);
}
.state {
  border-radius: 5px;
  background: var(--sunk);
  padding: 0 7px;
}
.rung {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  gap: 4px;
  align-items: center;
  height: 26px;
  padding: 0 8px 0 10px;
  font-size: 12.5px;
  white-space: nowrap;
  overflow: hidden;
}
.rung > span:nth-child(2) {
  overflow: hidden;
  text-overflow: ellipsis;
}
.rung.wins {
  background: var(--plum-soft);
  font-weight: 600;
}
.rung i {
  font-style: normal;
}
.line {
  fill: none;
  stroke: var(--ink-2);
  stroke-width: 1.3;
}
.line.on {
  stroke: var(--plum);
  stroke-width: 3.4;
}
.line.analog {
  stroke: var(--plum);
  stroke-width: 1.4;
}
.line.released {
  stroke-dasharray: 1.5 4;
  stroke-width: 1.8;
}
.line.stale {
  stroke: var(--amber);
  stroke-dasharray: 6 4;
}
.line.fault {
  stroke: var(--crimson);
  stroke-dasharray: 6 4;
  stroke-width: 2;
}
.conversion {
  font: 10.5px var(--mono);
  fill: var(--russet);
  text-anchor: end;
}
.inserts {
  position: relative;
}
.wrap2 {
  position: relative;
  flex: 1;
  min-width: 210px;
}
.wrap2 .field {
  width: 100%;
}
.list {
  position: absolute;
  z-index: 30;
  padding: 4px;
  width: 300px;
  max-height: 260px;
  overflow: auto;
  box-shadow: 0 4px 14px #0002;
}
.list.up {
  bottom: 34px;
  left: 0;
}
.list button {
  display: block;
  width: 100%;
  text-align: left;
  border: 0;
  background: none;
  padding: 3px 6px;
  border-radius: 5px;
  cursor: pointer;
}
.list .on {
  background: var(--plum-soft);
}
.inspect {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.inspect label.row {
  grid-template-columns: 92px minmax(0, 1fr);
  margin: 2px 0;
}
.formula {
  background: var(--sunk);
  border-radius: 6px;
  padding: 4px 8px;
  font-size: 12px;
}
.acts {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.claim {
  border-left: 3px solid var(--plum);
  padding-left: 8px;
  margin: 4px 0;
}
.bare {
  border: 0;
  background: none;
  font-weight: 600;
}
</style>
