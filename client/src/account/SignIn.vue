<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'

const store = useStore()
const name = ref('')
const password = ref('')
const code = ref('')
const wrong = ref('')
const busy = ref(false)
const isFirst = computed(() => !!store.me?.needsFirstAccount)
const demo = [
  ['engineer', 'changes the project'],
  ['technician', 'sends and checks on site'],
  ['operator', 'runs the building'],
  ['viewer', 'looks'],
] as const
async function enter(ask: () => Promise<Schemas['Me']>) {
  busy.value = true
  wrong.value = ''
  try {
    store.me = await ask()
    await store.start()
  } catch (e) {
    wrong.value = (e as Error).message
  } finally {
    busy.value = false
  }
}
const signIn = (body: { name: string; password: string }) => enter(() => post('/sign-in', { body }))
const submit = () => {
  const body = { name: name.value, password: password.value }
  return isFirst.value ? enter(() => post('/first-account', { body: { ...body, code: code.value } })) : signIn(body)
}
</script>

<template>
  <main class="door">
    <form class="sheet" @submit.prevent="submit">
      <div class="brand"><img src="/wren.svg" alt="" width="40" /><span>Lofty Wren</span></div>
      <p class="dim">
        {{
          isFirst
            ? 'This installation is new. Make the first account with the code that was printed when the program started.'
            : 'Engineer a building’s automation, and rehearse it before anyone goes to site.'
        }}
      </p>
      <label v-if="isFirst" class="row"><span>Code</span><TextBox id="code" v-model="code" mono autocomplete="one-time-code" required autofocus /></label>
      <label class="row"><span>Name</span><TextBox id="name" v-model="name" autocomplete="username" required /></label>
      <label class="row"
        ><span>Password</span><TextBox id="password" v-model="password" type="password" required :autocomplete="isFirst ? 'new-password' : 'current-password'"
      /></label>
      <p v-if="wrong" class="wrong" role="alert">✕ {{ wrong }}</p>
      <NButton type="primary" attr-type="submit" :disabled="busy">{{ isFirst ? 'Make the account' : 'Sign in' }}</NButton>
      <div v-if="store.me?.offersDemo" class="demo">
        <h3>This is the demo. Look around as:</h3>
        <NButton v-for="[who, what] in demo" :key="who" block :data-demo="who" :disabled="busy" @click="signIn({ name: who, password: 'saltmarsh' })">
          {{ who }} <span class="dim">{{ what }}</span>
        </NButton>
      </div>
    </form>
  </main>
</template>

<style scoped>
.door {
  height: 100%;
  display: grid;
  place-items: center;
  padding: 12px;
}
form {
  width: min(430px, 100%);
  display: flex;
  flex-direction: column;
  gap: 8px;
  padding: 26px 30px;
}
form label.row {
  grid-template-columns: 84px 1fr;
}
.brand {
  display: flex;
  align-items: center;
  gap: 12px;
  font: 600 30px var(--serif);
}
.demo {
  border-top: 1px solid var(--rule);
  margin-top: 8px;
  padding-top: 12px;
  display: grid;
  gap: 6px;
}
.demo :deep(.n-button__content) {
  width: 100%;
  justify-content: space-between;
}
.demo .dim {
  font-weight: 400;
}
</style>
