import { useDebounceFn } from '@vueuse/core'
import { computed, ref, watch, type Ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { change } from '../shared/api/records'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

type Convention = Schemas['NamingConvention']
export interface RuleDraft {
  for: string
  pattern: string
  letters: string
  longest: number | null
  case: Schemas['LetterCase']
  unique: Schemas['NameScope']
}
interface Draft {
  rules: RuleDraft[]
  abbreviations: string
  words: string
  spelling: boolean
}

/** The convention as it is written: a rule for every kind, empty where there is none; abbreviations one a line. */
export function draftOf(convention: Convention, kinds: readonly string[]): Draft {
  return {
    rules: kinds.map((kind) => {
      const rule = convention.rules?.find((r) => r.for === kind)
      return {
        for: kind,
        pattern: rule?.pattern ?? '',
        letters: rule?.letters ?? '',
        longest: rule?.longest ?? null,
        case: rule?.case ?? 'asWritten',
        unique: rule?.unique ?? 'siblings',
      }
    }),
    abbreviations: Object.entries(convention.abbreviations ?? {})
      .map(([word, short]) => `${word} = ${short}`)
      .join('\n'),
    words: (convention.words ?? []).join(' '),
    spelling: convention.checksSpelling ?? true,
  }
}

/** The convention that a draft says. */
export function conventionOf(draft: Draft, { id, name }: { id: string; name: string }): Convention {
  const lines = draft.abbreviations.split('\n').filter((l) => l.includes('='))
  return {
    id,
    name,
    rules: draft.rules
      .filter((r) => r.pattern.trim())
      .map((r) => ({ ...r, pattern: r.pattern.trim(), letters: r.letters.trim() || undefined, longest: r.longest ?? undefined })),
    abbreviations: Object.fromEntries(lines.map((l) => [l.slice(0, l.indexOf('=')).trim(), l.slice(l.indexOf('=') + 1).trim()])),
    words: [...new Set(draft.words.toLowerCase().split(/[\s,;]+/).filter(Boolean))], // prettier-ignore
    checksSpelling: draft.spelling,
  }
}

/** A line that is no abbreviation, or none. */
export const wrongLineOf = (draft: Draft) => draft.abbreviations.split('\n').find((l) => l.trim() && !/^[^=]+=[^=]+$/.test(l))

/** The convention being written: tried on the project at every stroke, kept when it is saved. */
export function useNamesDraft(names: Ref<Schemas['NamesView'] | null>) {
  const store = useStore()
  const attempt = useDo()
  const draft = ref<Draft | null>(null)
  const shown = computed<Draft>(
    () => draft.value ?? (names.value ? draftOf(names.value.convention, names.value.kinds) : { rules: [], abbreviations: '', words: '', spelling: true }),
  )
  const record = computed(() => ({
    type: 'namingConvention' as const,
    ...conventionOf(shown.value, names.value?.convention ?? { id: 'naming-convention', name: 'Naming convention' }),
  }))
  const wrongLine = computed(() => wrongLineOf(shown.value))
  const trial = ref<Schemas['ConventionTrial'] | null>(null)
  const tryIt = useDebounceFn(async () => {
    if (store.may('engineer') && names.value) trial.value = await post('/names/try', { body: record.value }).catch(() => null)
  }, 250)
  watch([record, names], () => void tryIt(), { immediate: true })
  function edit(change: (d: Draft) => void) {
    const next = structuredClone(JSON.parse(JSON.stringify(shown.value))) as Draft
    change(next)
    draft.value = next
  }
  /** The common rules, beside what there is already. */
  function begin() {
    const { common, convention, kinds } = names.value!
    draft.value = { ...draftOf(common, kinds), words: (convention.words ?? []).join(' ') }
  }
  async function save() {
    if (wrongLine.value) return
    const saved = await attempt(() => change([{ put: record.value as never, from: names.value!.revision }]), 'Saved; every name is checked from now on')
    if (saved) draft.value = null
  }
  return { draft, shown, wrongLine, trial, edit, begin, save }
}
