import { useThrottleFn } from '@vueuse/core'
import { computed, ref, shallowRef, watch } from 'vue'
import { useShown } from '../shared/api/cache'
import { get, post, type Schemas } from '../shared/api/http'
import { change, newId, put, type Block, type Sequence, type Source } from '../shared/api/records'
import { Flag, useLive, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import { settingsOf, sourceKey } from './diagram'
import { useScans } from './useScans'
import { duplicated, retyped, withBlock, withClaim, withInput, without } from './edits'

/** A sequence as it is worked on: what it is, what flows in it, what is picked, and every edit of it. */
export function useSequence(id: () => string) {
  const store = useStore()
  const attempt = useDo()
  const path = computed(() => ({ id: id() }))
  const {
    value: view,
    problem,
    reload,
  } = useShown('/sequences/{id}', () => ({ path: path.value }), ['sequence', 'point', 'schedule', 'controller', 'fitting', 'equipment', 'place'])
  const { value: blocks } = useShown('/blocks', () => ({}), 'fixed')
  const types = computed(() => new Map((blocks.value ?? []).map((b) => [b.definition.kind as string, b.definition])))
  const shapes = computed(() => new Map((view.value?.shapes ?? []).map((x) => [x.blockId, x.definition])))
  /** The kind of a block, with pins of its own where it has those. */
  const typeOf = (b: Block) => shapes.value.get(b.id) ?? types.value.get(b.kind)
  const s = computed(() => view.value?.sequence ?? null)
  const may = computed(() => store.may('engineer'))
  const picked = ref<string[]>([])
  /** What is taken hold of to be connected: a source, and the pin it was taken at. */
  const held = ref<{ source: Source; at: string } | null>(null)

  useLive(() => [
    ...(view.value?.reads ?? []).map((r) => r.liveId),
    ...(s.value?.blocks ?? []).flatMap((b) => (typeOf(b)?.outputs ?? []).map((o) => `b:${s.value!.id}/${b.id}/${o.name}`)),
    ...(view.value?.ladders ?? []).map((l) => `p:${l.pointId}`),
  ])
  /** The values of a scan that is looked back at, in place of those of now. */
  const past = shallowRef<Map<string, Schemas['LiveValue']> | null>(null)
  const scans = useScans(id, past)
  const live = (key: string) => (past.value ? past.value.get(key) : store.live.get(key))
  const pinLive = (block: string, pin = 'out') => live(`b:${s.value?.id}/${block}/${pin}`)

  const byId = (id: string) => s.value?.blocks?.find((b) => b.id === id)
  const readBy = (key: string) => view.value?.reads.find((r) => r.key === key)
  const ladderBy = (id: string) => view.value?.ladders.find((l) => `o:${l.pointId}` === id)
  const say = (b: Block) => b.label || typeOf(b)?.name || b.kind
  /** What a value of the sequence is called, by the address it is watched by. */
  function sayAddress(address: string) {
    const [, block, pin] = address.split('/')
    if (address.startsWith('b:')) return byId(block!) ? `${say(byId(block!)!)}${pin === 'out' ? '' : ` · ${pinLabel(byId(block!)!, pin!)}`}` : '?'
    return view.value?.reads.find((r) => r.liveId === address)?.name ?? ladderBy(`o:${address.slice(2)}`)?.name ?? '?'
  }
  /** Whether a value is one of what is picked: an output of a block, or a commanded output. */
  const isOfPicked = (address: string) =>
    picked.value.some((p) => (p.startsWith('o:') ? address === `p:${p.slice(2)}` : address.startsWith(`b:${s.value?.id}/${p}/`)))
  const pinLabel = (b: Block, pin: string) => typeOf(b)?.outputs.find((o) => o.name === pin)?.label ?? pin
  /** What a node of the diagram is called: a block by its id, an output as o:id. */
  const called = (id: string) => (id.startsWith('o:') ? (ladderBy(id)?.name ?? 'an output') : byId(id) ? say(byId(id)!) : 'a block')
  const saySource: { [K in NonNullable<Source['from']>]: (x: Extract<Source, { from?: K }>) => string } = {
    constant: (x) => (x.binary ? (x.value > 0.5 ? 'on' : 'off') : `${x.value}${x.unit ? ' ' + x.unit : ''}`),
    block: (x) => (byId(x.blockId) ? say(byId(x.blockId)!) + (x.pin && x.pin !== 'out' ? ` · ${pinLabel(byId(x.blockId)!, x.pin)}` : '') : '?'),
    point: (x) => readBy(sourceKey(x)!)?.name ?? '?',
    schedule: (x) => readBy(sourceKey(x)!)?.name ?? '?',
    pin: (x) => x.pin,
  }
  const sourceText = (source: Source | null | undefined) => (source ? saySource[source.from!](source as never) : '')
  /** What arrives at an input pin: the value of its source, converted where the line converts. */
  function arrives(blockId: string, pin: string): { text: string; f: number } {
    const source = byId(blockId)?.inputs?.[pin]
    if (!source) return { text: 'open', f: Flag.released }
    if (source.from === 'constant') return { text: sourceText(source), f: 0 }
    const value = source.from === 'block' ? pinLive(source.blockId, source.pin ?? 'out') : live(sourceKey(source)!)
    if (!value) return { text: '–', f: Flag.released }
    const c = view.value?.conversions.find((x) => x.blockId === blockId && x.pin === pin)
    return !c || value.v == null ? value : { text: `${(value.v * c.factor + c.offset).toFixed(1)} ${c.to}`, f: value.f }
  }
  const settingUnit = (blockId: string, name: string) => view.value?.settingUnits.find((u) => u.blockId === blockId && u.setting === name)?.unit ?? ''
  const offers = (blockId: string, name: string) => view.value?.textOffers.find((o) => o.blockId === blockId && o.setting === name)?.offers ?? []
  /** The settings that a block shows in the diagram. */
  function settings(b: Block): [label: string, value: string][] {
    const d = typeOf(b)!
    const all: [string, string][] = [
      ...d.choices.map((c): [string, string] => [c.label, c.options.find((o) => o.value === (b.choices?.[c.name] ?? c.options[0]!.value))!.label]),
      ...(d.texts ?? []).map((x): [string, string] => [x.label, b.texts?.[x.name] || 'none yet']),
      ...(d.tables ?? []).map((x): [string, string] => [x.label, `${(b.tables?.[x.name] ?? x.default).length} rows`]),
      ...d.numbers.map((n): [string, string] => [n.label, `${b.numbers?.[n.name] ?? n.default} ${settingUnit(b.id, n.name)}`]),
    ]
    return all.slice(0, settingsOf(d))
  }

  /** The ladders of its outputs as they stand on the site, asked anew when what they rest on shows another value. */
  const ladders = ref(new Map<string, Schemas['LadderView']>())
  watch(
    () => [
      view.value?.ladders.map((l) => `${l.pointId}${live(`p:${l.pointId}`)?.text}${live(`p:${l.pointId}`)?.f}`).join(),
      (s.value?.blocks ?? []).map((b) => pinLive(b.id)?.f).join(),
      store.eventsTick,
    ],
    useThrottleFn(
      async () => {
        // Once what they rest on is known, and then now and again.
        if (!view.value?.ladders.length || !view.value.ladders.every((l) => store.live.has(`p:${l.pointId}`))) return
        const all = await get('/sequences/{id}/ladders', { path: path.value }).catch(() => [])
        ladders.value = new Map(all.map((l) => [l.pointId, l.ladder]))
      },
      2500,
      true,
      true,
    ),
    { immediate: true },
  )

  /** Keeps a sequence that was made from one of a revision, that which is shown unless another is said; where somebody has changed it since, both stand side by side. */
  async function save(next: Sequence, label?: string, from = view.value!.revision): Promise<boolean> {
    const done = await attempt(() => change([put('sequence', next, from)], label))
    await reload()
    return done
  }
  const name = () => s.value!.name
  const setBlock = (id: string, patch: Partial<Block>, label?: string) => save(withBlock(s.value!, id, patch), label)
  const setInput = (id: string, pin: string, source: Source | null) =>
    save(withInput(s.value!, id, pin, source), source ? `Connected ${pin} of ‘${called(id)}’` : `Took the connection off ${pin} of ‘${called(id)}’`)
  const setClaim = (pointId: string, priority: number, patch: Partial<Schemas['Claim']> | null) => save(withClaim(s.value!, pointId, priority, patch))
  async function insert(kind: string) {
    const id = newId(kind.toLowerCase().slice(0, 8))
    const next = { ...s.value!, blocks: [...(s.value!.blocks ?? []), { id, kind: kind as Block['kind'] }] }
    if (await save(next, `Inserted ${types.value.get(kind)!.name} into ‘${name()}’`)) picked.value = [id]
  }
  async function insertOwn(part: Schemas['Part']) {
    const id = newId('own')
    const next = { ...s.value!, blocks: [...(s.value!.blocks ?? []), { id, kind: 'own' as Block['kind'], inside: part }] }
    if (await save(next, `Inserted ‘${part.name}’ into ‘${name()}’`)) picked.value = [id]
  }
  async function addOutput(pointId: string, called: string) {
    const isThere = s.value!.commands?.some((c) => c.pointId === pointId)
    if (isThere || (await save({ ...s.value!, commands: [...(s.value!.commands ?? []), { pointId, claims: [] }] }, `‘${name()}’ commands ‘${called}’`)))
      picked.value = [`o:${pointId}`]
  }
  async function addClaim(output: Schemas['LadderDesign']) {
    const priority = output.freePriority
    if (priority == null)
      return attempt(() => Promise.reject(new Error(`Every priority of ‘${output.name}’ that logic should take is taken. Remove a claim first.`)))
    return save(withClaim(s.value!, output.pointId, priority, {}), `Added claim ${priority} on ‘${output.name}’`)
  }
  const parts = (n: number, what: string) => `${n} ${what}${n === 1 ? '' : 's'} of ‘${name()}’`
  async function remove() {
    const gone = picked.value
    picked.value = []
    await save(without(s.value!, gone), `Deleted ${parts(gone.length, 'part')}`)
  }
  async function duplicate() {
    const { sequence, copies } = duplicated(s.value!, picked.value, () => newId('copy'))
    if (copies.length && (await save(sequence, `Duplicated ${parts(copies.length, 'block')}`))) picked.value = copies
  }
  const retype = (b: Block, kind: string) => setBlock(b.id, retyped(b, types.value.get(kind)!), `Made ‘${say(b)}’ a ${types.value.get(kind)!.name}`)
  /** Connects what is held to a pin: an input of a block, or a rung of an output that is this sequence's. */
  async function connect(node: string, pin: string) {
    if (!held.value || !may.value) return
    const { source } = held.value
    held.value = null
    const [owner, priority] = pin.split('@')
    if (!node.startsWith('o:')) await setInput(node, pin, source)
    else if (owner === s.value!.id) await setClaim(node.slice(2), Number(priority), { source })
  }
  const sources = (text: string) => post('/sequences/{id}/sources', { path: path.value, body: { text } })
  const fix = (f: Schemas['FindingView'], which: number) =>
    attempt(() => post('/findings/fix', { body: { key: f.key, recordId: f.recordId, which, label: f.fixes[which]?.label } }), f.fixes[which]?.label)
  return {
    ...{
      view,
      problem,
      reload,
      blocks,
      types,
      typeOf,
      s,
      may,
      picked,
      held,
      live,
      pinLive,
      byId,
      readBy,
      ladderBy,
      say,
      called,
      sourceText,
      arrives,
      settingUnit,
      scans,
      sayAddress,
      isOfPicked,
    },
    ...{
      offers,
      settings,
      ladders,
      save,
      setBlock,
      setInput,
      setClaim,
      insert,
      insertOwn,
      addOutput,
      addClaim,
      remove,
      duplicate,
      retype,
      connect,
      sources,
      fix,
    },
  }
}
export type SequenceWork = ReturnType<typeof useSequence>
