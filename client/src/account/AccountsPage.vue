<script setup lang="ts">
import { ref } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

const store = useStore()
const attempt = useDo()
const { value: accounts, reload } = useLoaded<Schemas['AccountView'][]>(() => (store.may('administrator') ? get('/accounts') : null), undefined, [])
const old = ref('')
const fresh = ref('')
const name = ref('')
const password = ref('')
const role = ref('operator')
async function add() {
  if (await attempt(() => post('/accounts', { name: name.value, password: password.value, role: role.value }), `Made the account ${name.value}`)) {
    name.value = password.value = ''
    await reload()
  }
}
async function changePassword() {
  if (
    await attempt(() => post('/me/password', { old: old.value, new: fresh.value }), 'Password changed. Every session of this account has ended; sign in again.')
  )
    await store.stop()
}
</script>

<template>
  <div class="page">
    <h1>Accounts</h1>
    <div class="two">
      <form class="sheet" @submit.prevent="changePassword">
        <h2>Your password</h2>
        <label class="row"><span>Old</span><input v-model="old" type="password" class="field" autocomplete="current-password" required /></label>
        <label class="row"><span>New</span><input v-model="fresh" type="password" class="field" autocomplete="new-password" required minlength="8" /></label>
        <button class="btn main">Change the password</button>
        <p class="dim">Every session of your account ends, this one too.</p>
      </form>
      <div v-if="store.may('administrator')" class="sheet">
        <h2>All accounts</h2>
        <table class="grid">
          <tbody>
            <tr v-for="a in accounts ?? []" :key="a.name">
              <td>
                <b>{{ a.name }}</b>
              </td>
              <td>{{ a.role }}</td>
            </tr>
          </tbody>
        </table>
        <form @submit.prevent="add">
          <h3>New account</h3>
          <label class="row"><span>Name</span><input v-model="name" class="field" required autocomplete="off" /></label>
          <label class="row"
            ><span>Password</span><input v-model="password" class="field" type="password" required minlength="8" autocomplete="new-password"
          /></label>
          <label class="row"
            ><span>Role</span
            ><select v-model="role" class="field">
              <option>viewer</option>
              <option>operator</option>
              <option>technician</option>
              <option>engineer</option>
              <option>administrator</option>
            </select></label
          >
          <button class="btn main">Make the account</button>
        </form>
      </div>
      <p v-else class="dim">Only an administrator sees and makes accounts.</p>
    </div>
  </div>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 14px;
  align-items: start;
}
</style>
