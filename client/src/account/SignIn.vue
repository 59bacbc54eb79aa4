<script setup lang="ts">
import { ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'

const store = useStore()
const name = ref('')
const password = ref('')
const code = ref('')
const wrong = ref('')
const busy = ref(false)
const demo = [
  ['engineer', 'changes the project'],
  ['technician', 'sends and checks on site'],
  ['operator', 'runs the building'],
  ['viewer', 'looks'],
]

async function enter(path: string, body: object) {
  busy.value = true
  wrong.value = ''
  try {
    store.me = await post<Schemas['Me']>(path, body)
    await store.start()
  } catch (e) {
    wrong.value = (e as Error).message
  } finally {
    busy.value = false
  }
}
const submit = () =>
  store.me?.needsFirstAccount
    ? enter('/first-account', { code: code.value, name: name.value, password: password.value })
    : enter('/sign-in', { name: name.value, password: password.value })
</script>

<template>
  <main class="door">
    <form class="sheet" @submit.prevent="submit">
      <div class="brand"><img src="/wren.svg" alt="" width="40" /><span>Lofty Wren</span></div>
      <p class="dim">
        {{
          store.me?.needsFirstAccount
            ? 'This installation is new. Make the first account with the code that was printed when the program started.'
            : 'Engineer a building’s automation, and rehearse it before anyone goes to site.'
        }}
      </p>
      <label v-if="store.me?.needsFirstAccount" class="row"
        ><span>Code</span><input id="code" v-model="code" class="field mono" autocomplete="one-time-code" required autofocus
      /></label>
      <label class="row"><span>Name</span><input id="name" v-model="name" class="field" autocomplete="username" required /></label>
      <label class="row"
        ><span>Password</span
        ><input
          id="password"
          v-model="password"
          class="field"
          type="password"
          required
          :autocomplete="store.me?.needsFirstAccount ? 'new-password' : 'current-password'"
      /></label>
      <p v-if="wrong" class="wrong" role="alert">✕ {{ wrong }}</p>
      <button class="btn main" :disabled="busy">{{ store.me?.needsFirstAccount ? 'Make the account' : 'Sign in' }}</button>
      <div v-if="store.me?.offersDemo" class="demo">
        <h3>This is the demo. Look around as:</h3>
        <button
          v-for="[who, what] in demo"
          :key="who"
          type="button"
          class="btn"
          :data-demo="who"
          :disabled="busy"
          @click="enter('/sign-in', { name: who, password: 'saltmarsh' })"
        >
          {{ who }} <span class="dim">{{ what }}</span>
        </button>
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
.demo .btn {
  text-align: left;
  display: flex;
  justify-content: space-between;
}
.demo .dim {
  font-weight: 400;
}
</style>
