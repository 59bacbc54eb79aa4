<script setup lang="ts">
import { watchDebounced } from '@vueuse/core'
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useDo } from '../shared/useDo'

/** The credentials that replace the factory's, or that a controller has already; the server says at once what is wrong with each. */
const props = defineProps<{ isKnown?: boolean }>()
const secrets = defineModel<Schemas['TypedSecrets']>({ required: true })
const isRight = defineModel<boolean>('right', { default: false })
const attempt = useDo()
const wrong = ref<Schemas['SecretTrouble'][]>([])
const hasSecond = ref(!!secrets.value.secondAccount)
type Key = keyof Schemas['TypedSecrets']
const rows: { key: Key; label: string; again?: boolean; open?: boolean }[] = [
  { key: 'account', label: 'Account', open: true },
  { key: 'secret', label: 'Secret' },
  { key: 'secretAgain', label: 'Secret again', again: true },
  { key: 'passphrase', label: 'Passphrase' },
  { key: 'passphraseAgain', label: 'Passphrase again', again: true },
]
const second: typeof rows = [
  { key: 'secondAccount', label: 'Account', open: true },
  { key: 'secondSecret', label: 'Secret' },
  { key: 'secondSecretAgain', label: 'Secret again', again: true },
]
const shown = () => [...rows, ...(hasSecond.value ? second : [])].filter((r) => !(props.isKnown && r.again))
const saidOf = (key: Key) => (secrets.value[key] ? wrong.value.find((w) => w.field === key)?.sentence : undefined)
function put(key: Key, text: string) {
  const next = { ...secrets.value, [key]: text }
  // What a controller has already is typed once: it is tried there at once.
  if (props.isKnown) Object.assign(next, { secretAgain: next.secret, passphraseAgain: next.passphrase, secondSecretAgain: next.secondSecret })
  secrets.value = next
}
watchDebounced(
  secrets,
  () =>
    attempt(async () => {
      wrong.value = await post('/contacts/secrets', { body: secrets.value })
      isRight.value = !wrong.value.length
    }),
  { debounce: 250, immediate: true },
)
function twoAccounts(on: boolean) {
  hasSecond.value = on
  if (!on) secrets.value = { ...secrets.value, secondAccount: null, secondSecret: null, secondSecretAgain: null }
}
</script>

<template>
  <div class="secrets" data-secrets>
    <template v-for="r in shown()" :key="r.key">
      <h3 v-if="r.key === 'secondAccount'">Second account</h3>
      <label class="row"
        ><span>{{ r.label }}</span
        ><TextBox
          :id="`secret-${r.key}`"
          :model-value="secrets[r.key] ?? ''"
          :type="r.open ? 'text' : 'password'"
          autocomplete="new-password"
          :aria-invalid="!!saidOf(r.key)"
          @update:model-value="(t: string) => put(r.key, t)"
      /></label>
      <p v-if="saidOf(r.key)" class="wrong tiny said">✕ {{ saidOf(r.key) }}</p>
    </template>
    <NCheckbox id="second-account" :checked="hasSecond" @update:checked="twoAccounts">a second account, for somebody else</NCheckbox>
  </div>
</template>

<style scoped>
.secrets {
  display: grid;
  gap: 2px;
}
.said {
  margin: 0 0 4px 138px;
}
h3 {
  margin: 8px 0 0;
}
</style>
