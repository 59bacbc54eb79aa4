<script setup lang="ts">
import { computed, ref } from 'vue'
import type { Schemas } from '../shared/api/http'
import type { RuleDraft, useNamesDraft } from './useNamesDraft'

/** The rules of the naming convention as a table, each with what it would come to; abbreviations and words beside. */
type Draft = ReturnType<typeof useNamesDraft>['shown']['value']
const props = defineProps<{ names: Schemas['NamesView']; draft: Draft; trial: Schemas['ConventionTrial'] | null; wrongLine?: string; may: boolean }>()
const emit = defineEmits<{ edit: [change: (d: Draft) => void] }>()
/** Kinds without a rule stay out of the way until one is asked for. */
const asked = ref<string[]>([])
const hasRule = (r: RuleDraft) => !!r.pattern || asked.value.includes(r.for)
const rows = computed(() => props.draft.rules.map((r, i) => ({ r, i })).filter(({ r }) => hasRule(r)))
const others = computed(() => props.draft.rules.filter((r) => !hasRule(r)).map((r) => r.for))
const outcome = (kind: string) => props.trial?.rules.find((r) => r.for === kind)
const set = <K extends keyof RuleDraft>(i: number, key: K, value: RuleDraft[K]) => emit('edit', (d) => void (d.rules[i]![key] = value))
const cases: { value: Schemas['LetterCase']; label: string }[] = [
  { value: 'asWritten', label: 'as written' },
  { value: 'upper', label: 'CAPITALS' },
  { value: 'lower', label: 'small' },
]
const scopes: Schemas['NameScope'][] = ['siblings', 'room', 'floor', 'building', 'project']
</script>

<template>
  <div class="rules">
    <div class="sheet">
      <p v-if="!rows.length" class="empty">
        A rule says what names of one kind look like, such as <code>{building}-{kind}-{nn}</code>. Names that depart are found, each with the name it would
        have.
      </p>
      <NTable v-else size="small" :bordered="false">
        <thead>
          <tr>
            <th>Names of</th>
            <th style="width: 24%">Pattern</th>
            <th style="width: 15%">Made of</th>
            <th>Longest</th>
            <th>Letters</th>
            <th>Once in a</th>
            <th>Depart</th>
            <th>For example</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="{ r, i } in rows" :key="r.for">
            <td>
              <b>{{ r.for }}</b>
            </td>
            <td>
              <TextBox
                :model-value="r.pattern"
                mono
                :disabled="!may"
                :aria-label="`Pattern of ${r.for}`"
                placeholder="free"
                spellcheck="false"
                @update:model-value="(v: string) => set(i, 'pattern', v)"
              />
            </td>
            <td>
              <TextBox
                :model-value="r.letters"
                mono
                :disabled="!may"
                :aria-label="`What a ${r.for} name is made of`"
                placeholder="anything"
                spellcheck="false"
                @update:model-value="(v: string) => set(i, 'letters', v)"
              />
            </td>
            <td>
              <NumberBox
                :model-value="r.longest"
                :width="62"
                :disabled="!may"
                :aria-label="`Longest ${r.for} name`"
                @update:model-value="(v) => set(i, 'longest', v)"
              />
            </td>
            <td>
              <PickOne
                :model-value="r.case"
                :options="cases"
                :disabled="!may"
                :aria-label="`Letter case of ${r.for}`"
                style="width: 118px"
                @update:model-value="(v: RuleDraft['case']) => set(i, 'case', v)"
              />
            </td>
            <td>
              <PickOne
                :model-value="r.unique"
                :options="scopes"
                :disabled="!may"
                :aria-label="`Where a ${r.for} name stands once`"
                style="width: 104px"
                @update:model-value="(v: RuleDraft['unique']) => set(i, 'unique', v)"
              />
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
      </NTable>
      <p v-for="s in trial?.refusals" :key="s" class="wrong" role="alert">{{ s }}</p>
      <p class="acts">
        <PickOne
          v-if="may && others.length"
          id="rule-for"
          :options="others"
          placeholder="Rule for…"
          aria-label="Rule for"
          style="width: 160px"
          @update:model-value="(kind: string) => asked.push(kind)"
        />
        <span class="dim"
          >Tokens:
          <template v-for="t in names.tokens" :key="t"
            ><code>{{ t }}</code
            >&nbsp;</template
          >; {name} is any text. Made of: <code>letters</code> <code>digits</code> <code>space</code> and single characters.</span
        >
      </p>
    </div>
    <div class="two">
      <div class="sheet">
        <h2>Abbreviations</h2>
        <TextBox
          type="textarea"
          mono
          :rows="9"
          spellcheck="false"
          aria-label="Abbreviations, one a line"
          placeholder="temperature = temp"
          :disabled="!may"
          :model-value="draft.abbreviations"
          @update:model-value="(v: string) => emit('edit', (d) => void (d.abbreviations = v))"
        />
        <p v-if="wrongLine" class="wrong" role="alert">‘{{ wrongLine }}’ is no abbreviation: write the word, an equals sign, and what is short for it.</p>
      </div>
      <div class="sheet">
        <h2>The project’s words</h2>
        <TextBox
          type="textarea"
          mono
          :rows="7"
          spellcheck="false"
          aria-label="The project’s own words"
          placeholder="words the list lacks"
          :disabled="!may"
          :model-value="draft.words"
          @update:model-value="(v: string) => emit('edit', (d) => void (d.words = v))"
        />
        <NCheckbox :checked="draft.spelling" :disabled="!may" @update:checked="(v: boolean) => emit('edit', (d) => void (d.spelling = v))"
          >check the spelling (English)</NCheckbox
        >
      </div>
    </div>
  </div>
</template>

<style scoped>
.rules,
.sheet {
  display: grid;
  gap: 10px;
}
.sheet {
  align-content: start;
  overflow-x: auto;
}
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 12px;
}
.rules :deep(td) {
  padding: 2px 5px;
}
.example {
  max-width: 200px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
</style>
