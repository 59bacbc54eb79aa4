<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import ModalBox from '../shared/ModalBox.vue'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'
import PlanTabs from './PlanTabs.vue'

const store = useStore()
const attempt = useDo()
const { value: names } = useLoaded<Schemas['NamesView']>(() => get('/names'), undefined, 'all')
const may = computed(() => store.may('engineer'))

/** The convention being written: tried on the project at every stroke, kept when it is saved. */
type Rule = { for: string; pattern: string; letters: string; longest: string; case: string; unique: string }
const draft = ref<{ rules: Rule[]; abbreviations: string; words: string; spelling: boolean } | null>(null)
const shown = computed(() => draft.value ?? fromView())
function fromView() {
  const c = names.value?.convention
  return {
    rules: (names.value?.kinds ?? []).map((kind) => {
      const r = c?.rules?.find((x) => x.for === kind)
      return {
        for: kind,
        pattern: r?.pattern ?? '',
        letters: r?.letters ?? '',
        longest: r?.longest == null ? '' : String(r.longest),
        case: r?.case ?? 'asWritten',
        unique: r?.unique ?? 'siblings',
      }
    }),
    abbreviations: Object.entries(c?.abbreviations ?? {})
      .map(([w, s]) => `${w} = ${s}`)
      .join('\n'),
    words: (c?.words ?? []).join(' '),
    spelling: c?.checksSpelling ?? true,
  }
}
/** Kinds without a rule stay out of the way until one is asked for. */
const asked = ref<string[]>([])
const hasRule = (r: Rule) => !!r.pattern || asked.value.includes(r.for)
const rows = computed(() => shown.value.rules.map((r, i) => ({ r, i })).filter(({ r }) => hasRule(r)))
function edit(change: (d: NonNullable<typeof draft.value>) => void) {
  const d = draft.value ?? fromView()
  change(d)
  draft.value = { ...d }
}
const wrongLine = computed(() => shown.value.abbreviations.split('\n').find((l) => l.trim() && !/^[^=]+=[^=]+$/.test(l)))
const record = computed(() => {
  const d = shown.value
  return {
    type: 'namingConvention',
    id: names.value?.convention.id ?? 'naming-convention',
    name: names.value?.convention.name ?? 'Naming convention',
    rules: d.rules
      .filter((r) => r.pattern.trim())
      .map((r) => ({
        for: r.for,
        pattern: r.pattern.trim(),
        letters: r.letters.trim() || undefined,
        longest: r.longest ? Number(r.longest) : undefined,
        case: r.case,
        unique: r.unique,
      })),
    abbreviations: Object.fromEntries(
      d.abbreviations
        .split('\n')
        .filter((l) => l.includes('='))
        .map((l) => [l.slice(0, l.indexOf('=')).trim(), l.slice(l.indexOf('=') + 1).trim()]),
    ),
    words: [
      ...new Set(
        d.words
          .toLowerCase()
          .split(/[\s,;]+/)
          .filter(Boolean),
      ),
    ],
    checksSpelling: d.spelling,
  }
})
const trial = ref<Schemas['ConventionTrial'] | null>(null)
const tryIt = useDebounceFn(async () => {
  if (may.value && names.value) trial.value = await post<Schemas['ConventionTrial']>('/names/try', record.value).catch(() => null)
}, 250)
watch([record, () => store.lastChange?.revision], () => void tryIt(), { immediate: true })
const outcome = (kind: string) => trial.value?.rules.find((r) => r.for === kind)
async function save() {
  if (wrongLine.value) return
  if (await attempt(() => change([{ put: record.value as never, from: Number(names.value!.revision) }]), 'Saved; every name is checked from now on'))
    draft.value = null
}
function begin() {
  edit((d) => {
    const set = (kind: string, rule: Partial<Rule>) =>
      Object.assign(
        d.rules.find((r) => r.for === kind)!,
        rule,
      )
    set('room', { pattern: '{name}', longest: '40' })
    set('equipment', { pattern: '{name}', longest: '40', unique: 'room' })
    set('point', { pattern: '{name}', longest: '40' })
    set('controller', { pattern: '{building}-C{n}', unique: 'project' })
    set('network name', {
      pattern: '{building}.{floor}.{short}.{equipment}.{name}',
      letters: 'letters digits . -',
      longest: '64',
      case: 'upper',
      unique: 'project',
    })
    if (!d.abbreviations.trim())
      d.abbreviations = [
        'temperature = temp',
        'setpoint = SP',
        'humidity = RH',
        'command = cmd',
        'supply = SUP',
        'extract = EXT',
        'air handler = AHU',
        'fan-coil = FCU',
        'Ground floor = 0',
        'First floor = 1',
      ].join('\n')
  })
}

const picked = ref(new Set<string>())
watch(names, (v) => (picked.value = new Set((v?.departures ?? []).filter((d) => d.proposed).map((d) => d.id))))
function toggle(id: string) {
  if (!picked.value.delete(id)) picked.value.add(id)
  picked.value = new Set(picked.value)
}
type Preview = { title: string; changes: Schemas['TextChange'][]; go: () => Promise<unknown>; done: string }
const preview = ref<Preview | null>(null)
async function showFix(all: boolean) {
  const ids = all ? [] : [...picked.value]
  await attempt(async () => {
    const changes = await post<Schemas['TextChange'][]>('/names/fix/preview', { ids })
    preview.value = { title: 'Names by the convention', changes, go: () => post('/names/fix', { ids }), done: `Renamed ${changes.length}` }
  })
}
const instead = ref<Record<string, string>>({})
async function showCorrection(w: Schemas['WordView']) {
  const to = instead.value[w.word] ?? w.suggestion ?? ''
  await attempt(async () => {
    const changes = await post<Schemas['TextChange'][]>('/names/words/preview', { word: w.word, to })
    preview.value = {
      title: `‘${to}’ for ‘${w.word}’`,
      changes,
      go: () => post('/names/words/correct', { word: w.word, to }),
      done: `Wrote ‘${to}’ in ${changes.length}`,
    }
  })
}
async function apply() {
  const p = preview.value!
  if (await attempt(p.go, p.done)) preview.value = null
}
const own = (words: string[]) => attempt(() => post('/names/words/own', { words }), 'Added to the project’s words')
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Names</h1>
      <span class="dim">checked with every edit</span><span class="space" />
      <button v-if="may && names && !names.revision && !draft" id="begin" class="btn" @click="begin">Begin with common rules</button>
      <PlanTabs />
    </div>
    <div v-if="names" class="sheet">
      <p v-if="!rows.length" class="empty">
        A rule says what names of one kind look like, such as <code>{building}-{kind}-{nn}</code>. Names that depart are found, each with the name it would
        have.
      </p>
      <table v-else class="grid rules">
        <thead>
          <tr>
            <th>Names of</th>
            <th>Pattern</th>
            <th>Made of</th>
            <th>Longest</th>
            <th>Letters</th>
            <th>Once in a</th>
            <th>Depart</th>
            <th>For example</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ r, i } in rows" :key="r.for" :class="{ last: r.for === 'network name' }">
            <td>
              <b>{{ r.for }}</b>
            </td>
            <td>
              <input
                class="field mono"
                :value="r.pattern"
                :disabled="!may"
                :aria-label="`Pattern of ${r.for}`"
                :placeholder="r.for === 'network name' ? 'none are derived' : 'free'"
                spellcheck="false"
                @input="edit((d) => (d.rules[i]!.pattern = ($event.target as HTMLInputElement).value))"
              />
            </td>
            <td>
              <input
                class="field mono"
                :value="r.letters"
                :disabled="!may"
                :aria-label="`What a ${r.for} name is made of`"
                placeholder="anything"
                spellcheck="false"
                @input="edit((d) => (d.rules[i]!.letters = ($event.target as HTMLInputElement).value))"
              />
            </td>
            <td>
              <input
                class="field mono short"
                type="number"
                min="3"
                max="255"
                :value="r.longest"
                :disabled="!may"
                :aria-label="`Longest ${r.for} name`"
                @input="edit((d) => (d.rules[i]!.longest = ($event.target as HTMLInputElement).value))"
              />
            </td>
            <td>
              <select
                class="field"
                :value="r.case"
                :disabled="!may"
                :aria-label="`Letter case of ${r.for}`"
                @change="edit((d) => (d.rules[i]!.case = ($event.target as HTMLSelectElement).value))"
              >
                <option value="asWritten">as written</option>
                <option value="upper">CAPITALS</option>
                <option value="lower">small</option>
              </select>
            </td>
            <td>
              <select
                class="field"
                :value="r.unique"
                :disabled="!may"
                :aria-label="`Where a ${r.for} name stands once`"
                @change="edit((d) => (d.rules[i]!.unique = ($event.target as HTMLSelectElement).value))"
              >
                <option v-for="u in ['siblings', 'room', 'floor', 'building', 'project']" :key="u">{{ u }}</option>
              </select>
            </td>
            <td class="num">
              <span v-if="outcome(r.for)" :class="{ wrong: outcome(r.for)!.depart }"
                >{{ outcome(r.for)!.depart ? '▲ ' : '✓ ' }}{{ outcome(r.for)!.depart }} of {{ outcome(r.for)!.records }}</span
              >
            </td>
            <td class="example">
              <span v-if="outcome(r.for)?.some[0]" class="mono" :title="outcome(r.for)!.some[0]!.why"
                >{{ outcome(r.for)!.some[0]!.name }} → {{ outcome(r.for)!.some[0]!.proposed ?? '?' }}</span
              >
            </td>
          </tr>
        </tbody>
      </table>
      <p v-for="s in trial?.refusals" :key="s" class="wrong" role="alert">{{ s }}</p>
      <p v-if="wrongLine" class="wrong" role="alert">‘{{ wrongLine }}’ is no abbreviation: write the word, an equals sign, and what is short for it.</p>
      <p class="under">
        <label v-if="may && rows.length < shown.rules.length"
          >Rule for
          <select
            id="rule-for"
            class="field"
            value=""
            @change="(asked.push(($event.target as HTMLSelectElement).value), (($event.target as HTMLSelectElement).value = ''))"
          >
            <option value="">…</option>
            <option v-for="r in shown.rules.filter((x) => !hasRule(x))" :key="r.for">{{ r.for }}</option>
          </select></label
        >
        <span class="dim"
          >Tokens:
          <template v-for="t in names.tokens" :key="t"
            ><code>{{ t }}</code> </template
          >; {name} is any text. Made of: <code>letters</code> <code>digits</code> <code>space</code> and single characters.</span
        ><span class="space" />
        <template v-if="draft"
          ><button class="btn" @click="((draft = null), (asked = []))">Leave as it was</button
          ><button id="save-names" class="btn main" :disabled="!!trial?.refusals.length || !!wrongLine" @click="save">Save the convention</button></template
        >
      </p>
    </div>
    <div v-if="names" class="three">
      <div class="sheet">
        <h2>Abbreviations</h2>
        <textarea
          class="field mono"
          rows="9"
          spellcheck="false"
          aria-label="Abbreviations, one a line"
          placeholder="temperature = temp"
          :disabled="!may"
          :value="shown.abbreviations"
          @input="edit((d) => (d.abbreviations = ($event.target as HTMLTextAreaElement).value))"
        />
        <h2>The project’s words</h2>
        <textarea
          class="field mono"
          rows="3"
          spellcheck="false"
          aria-label="The project’s own words"
          placeholder="words the list lacks"
          :disabled="!may"
          :value="shown.words"
          @input="edit((d) => (d.words = ($event.target as HTMLTextAreaElement).value))"
        />
        <label
          ><input
            type="checkbox"
            :checked="shown.spelling"
            :disabled="!may"
            @change="edit((d) => (d.spelling = ($event.target as HTMLInputElement).checked))"
          />
          check the spelling (English)</label
        >
      </div>
      <div class="sheet">
        <div class="head">
          <h2>{{ names.departureCount === 1 ? '1 name departs' : `${names.departureCount} names depart` }}</h2>
          <span class="space" />
          <template v-if="may && names.departureCount"
            ><button class="btn small" :disabled="!picked.size" @click="showFix(false)">Rename {{ picked.size }}…</button
            ><button id="fix-all" class="btn small main" @click="showFix(true)">Rename all…</button></template
          >
        </div>
        <p v-if="!names.departureCount" class="dim">
          {{ names.convention.rules?.length ? '✓ Every name follows the convention.' : 'No rule is saved yet, so every name may be what it is.' }}
        </p>
        <table v-else class="grid">
          <tbody>
            <tr v-for="d in names.departures" :key="d.id">
              <td><input type="checkbox" :checked="picked.has(d.id)" :disabled="!d.proposed" :aria-label="`Rename ${d.name}`" @change="toggle(d.id)" /></td>
              <td>
                <button class="link" @click="store.selected = d.id">{{ d.name }}</button><br /><span class="dim">{{ d.path }}</span>
              </td>
              <td>
                <span class="mono">→ {{ d.proposed ?? 'no name fits' }}</span
                ><br /><span class="dim">{{ d.why }}</span>
              </td>
            </tr>
          </tbody>
        </table>
        <p v-if="names.departureCount > names.departures.length" class="dim">The first {{ names.departures.length }} are shown; “Rename all” takes them all.</p>
        <template v-if="names.network.length">
          <h2>{{ names.network.length }} network names cannot stand</h2>
          <p v-for="f in names.network" :key="f.key">
            <button class="link" @click="store.selected = f.recordId">{{ f.name }}</button> <span class="dim">{{ f.path }}</span><br />{{ f.why }}
          </p>
        </template>
      </div>
      <div class="sheet">
        <div class="head">
          <h2>{{ names.words.length === 1 ? '1 word' : `${names.words.length} words` }} no list knows</h2>
          <span class="space" />
          <button v-if="may && names.words.length > 1" class="btn small" @click="own(names.words.map((w) => w.word))">All are right</button>
        </div>
        <p v-if="!names.words.length" class="dim">
          {{ shown.spelling ? '✓ Every word in names and descriptions is known.' : 'Spelling is not checked in this project.' }}
        </p>
        <table v-else class="grid">
          <tbody>
            <tr v-for="w in names.words" :key="w.word">
              <td>
                <b>{{ w.word }}</b> <span class="dim">×{{ w.count }}</span
                ><br /><span class="dim" :title="w.where.join('\n')">{{ w.where[0] }}</span>
                <form v-if="may" class="acts" @submit.prevent="showCorrection(w)">
                  <input
                    class="field"
                    :value="instead[w.word] ?? w.suggestion ?? ''"
                    :aria-label="`Instead of ${w.word}`"
                    @input="instead[w.word] = ($event.target as HTMLInputElement).value"
                  /><button class="btn small" :disabled="!(instead[w.word] ?? w.suggestion)">Correct…</button
                  ><button type="button" class="btn small" @click="own([w.word])">It is right</button>
                </form>
              </td>
            </tr>
          </tbody>
        </table>
      </div>
    </div>
    <ModalBox v-if="preview" :label="preview.title" wide @close="preview = null">
      <h2>{{ preview.title }}</h2>
      <p v-if="!preview.changes.length">Nothing would change: no name that fits is free.</p>
      <div class="scroll">
        <table class="grid">
          <tbody>
            <tr v-for="c in preview.changes" :key="c.id + c.before">
              <td class="dim">{{ c.noun }}</td>
              <td class="dim">{{ c.path }}</td>
              <td>{{ c.before }}</td>
              <td class="mono">→ {{ c.after }}</td>
            </tr>
          </tbody>
        </table>
      </div>
      <p>
        <button id="apply-names" class="btn main" :disabled="!preview.changes.length" @click="apply">
          Change {{ preview.changes.length }}, as one step to undo</button
        >&nbsp;<button class="btn" @click="preview = null">Leave</button>
      </p>
    </ModalBox>
  </div>
</template>

<style scoped>
.rules td {
  padding: 1px 6px;
}
.rules input,
.rules select {
  width: 100%;
  padding-block: 2px;
}
.rules select {
  padding-inline: 4px 0;
}
.rules td:nth-child(5),
.rules td:nth-child(6) {
  min-width: 104px;
}
.under {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
.under code + code {
  margin-left: 3px;
}
.rules .short {
  width: 66px;
}
.rules td:nth-child(3) {
  width: 18%;
}
.rules td:nth-child(2) {
  width: 25%;
}
.rules .last td {
  border-top: 2px solid var(--rule);
}
.example {
  max-width: 240px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.three {
  display: grid;
  grid-template-columns: 220px minmax(0, 1.5fr) minmax(0, 1fr);
  gap: 12px;
  align-items: start;
}
.three > * {
  overflow: auto;
  max-height: 420px;
}
.three textarea {
  width: 100%;
}
form.acts {
  display: flex;
  gap: 4px;
}
.acts .field {
  width: 116px;
}
.acts .btn {
  white-space: nowrap;
}
.scroll {
  max-height: 420px;
  overflow: auto;
}
@media (max-width: 700px) {
  .rules {
    min-width: 900px;
  }
  .three {
    grid-template-columns: 1fr;
  }
}
</style>
