<script setup lang="ts">
import { ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { roles, useStore, type Role } from '../shared/store'
import type { Column } from '../shared/ui/records'
import { useDo } from '../shared/useDo'

const store = useStore()
const attempt = useDo()
const { value: accounts, reload } = useShown('/accounts', () => (store.may('administrator') ? {} : null), [])
const old = ref('')
const fresh = ref('')
const name = ref('')
const password = ref('')
const role = ref<Role>('operator')
async function add() {
  const body = { name: name.value, password: password.value, role: role.value }
  if (await attempt(() => post('/accounts', { body }), `Made the account ${name.value}`)) name.value = password.value = ''
  await reload()
}
async function changePassword() {
  const body = { old: old.value, new: fresh.value }
  if (await attempt(() => post('/me/password', { body }), 'Password changed. Every session of this account has ended; sign in again.')) await store.stop()
}
const columns: Column<Schemas['AccountView']>[] = [
  { key: 'name', title: 'Name', sort: (a) => a.name },
  { key: 'role', title: 'Role', sort: (a) => a.role ?? '' },
]
</script>

<template>
  <PageShell>
    <div class="two">
      <form class="sheet" @submit.prevent="changePassword">
        <h2>Your password</h2>
        <label class="row"><span>Old</span><TextBox v-model="old" type="password" autocomplete="current-password" required /></label>
        <label class="row"><span>New</span><TextBox v-model="fresh" type="password" autocomplete="new-password" required minlength="8" /></label>
        <p class="acts"><NButton type="primary" attr-type="submit">Change the password</NButton></p>
        <p class="dim">Every session of your account ends, this one too.</p>
      </form>
      <form v-if="store.may('administrator')" class="sheet" @submit.prevent="add">
        <h2>New account</h2>
        <label class="row"><span>Name</span><TextBox v-model="name" required autocomplete="off" /></label>
        <label class="row"><span>Password</span><TextBox v-model="password" type="password" required minlength="8" autocomplete="new-password" /></label>
        <label class="row"><span>Role</span><PickOne v-model="role" :options="roles" aria-label="Role" /></label>
        <p class="acts"><NButton type="primary" attr-type="submit">Make the account</NButton></p>
      </form>
      <p v-else class="dim">Only an administrator sees and makes accounts.</p>
    </div>
    <RecordTable v-if="accounts" :rows="accounts" :columns="columns" :id="(a) => a.name" noun="account" plural="accounts" :words="(a) => a.name" />
  </PageShell>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(300px, 1fr));
  gap: 14px;
  align-items: start;
}
</style>
