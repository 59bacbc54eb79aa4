<script setup lang="ts">
import { computed, ref } from 'vue'
import { get, post, type Schemas } from '../shared/api/http'
import ModalBox from '../shared/ModalBox.vue'
import { useLoaded, useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The projects of the installation: make, open, copy, archive; and where each day's copies go. */
const store = useStore()
const attempt = useDo()
const { value: projects, reload } = useLoaded<Schemas['ProjectLine'][]>(() => get('/projects'), undefined, [])
const { value: copies, reload: reloadCopies } = useLoaded<Schemas['DailyCopyView']>(() => (store.may('engineer') ? get('/daily-copies') : null), undefined, [])
const may = computed(() => store.may('engineer'))
const working = computed(() => (projects.value ?? []).filter((p) => !p.isArchived))
const archived = computed(() => (projects.value ?? []).filter((p) => p.isArchived))
const making = ref<{ name: string; of: Schemas['ProjectLine'] | null } | null>(null)
const renaming = ref<{ id: string; name: string } | null>(null)
async function make() {
  const m = making.value!
  await attempt(
    async () => {
      const made = await post<Schemas['MadeProject']>('/projects', { name: m.name, copyOf: m.of?.id })
      making.value = null
      await reload()
      if (!m.of) location.href = made.address
    },
    m.of ? `Copied; ${m.name} is in the list` : undefined,
  )
}
async function rename() {
  const r = renaming.value!
  if (await attempt(() => post(`/projects/${r.id}/name`, { name: r.name }), 'Renamed')) renaming.value = null
  await reload()
}
async function archive(p: Schemas['ProjectLine']) {
  await attempt(() => post(`/projects/${p.id}/archive`), `${p.name} is archived; it is kept whole and can be brought back`)
  if (p.isThis) location.href = '/projects'
  await reload()
}
async function restore(p: Schemas['ProjectLine']) {
  await attempt(() => post(`/projects/${p.id}/restore`), `${p.name} is back`)
  await reload()
}
const when = (at: unknown) => new Intl.DateTimeFormat('en-GB', { dateStyle: 'medium', timeStyle: 'short' }).format(Number(at))
const folder = ref<string | null>(null)
const days = ref<number | null>(null)
async function setCopies() {
  const set = { folder: folder.value ?? copies.value!.folder, keepDays: days.value ?? Number(copies.value!.keepDays) }
  if (await attempt(() => post('/daily-copies', set), set.folder ? 'Copies were written, and will be each day' : 'No daily copies any more'))
    folder.value = days.value = null
  await reloadCopies()
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Projects</h1>
      <span class="dim">of this installation; each with its own history, site and address</span><span class="space" />
      <button v-if="may" id="make-project" class="btn main" @click="making = { name: '', of: null }">Make a project…</button>
    </div>
    <table class="grid sheet">
      <thead>
        <tr>
          <th>Project</th>
          <th>Site</th>
          <th class="num">Records</th>
          <th class="num">Revision</th>
          <th class="num">Findings</th>
          <th>Made</th>
          <th></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="p in working" :key="p.id" :class="{ sel: p.isThis }">
          <td>
            <b>{{ p.name }}</b> <span v-if="p.isThis" class="pill">● this one</span><span v-if="p.copyOf" class="dim"> copy of {{ p.copyOf }}</span>
          </td>
          <td>{{ p.siteName ?? (p.isOpen ? 'no site yet' : '–') }}</td>
          <td class="num">{{ p.records ?? '–' }}</td>
          <td class="num">{{ p.revision ?? '–' }}</td>
          <td class="num">{{ p.findings ?? '–' }}</td>
          <td class="dim">{{ p.madeAt ? `${when(p.madeAt)} by ${p.madeBy}` : 'with the installation' }}</td>
          <td>
            <span class="acts">
              <a v-if="!p.isThis" class="btn small main" :href="p.address">Open</a>
              <template v-if="may"
                ><button class="btn small" @click="making = { name: `${p.name} copy`, of: p }">Copy…</button
                ><template v-if="p.id !== 'main'"
                  ><button class="btn small" @click="renaming = { id: p.id, name: p.name }">Rename…</button
                  ><button class="btn small" @click="archive(p)">Archive</button></template
                ></template
              >
            </span>
          </td>
        </tr>
      </tbody>
    </table>
    <p class="dim">Records, revision and findings of a project are known once somebody has opened it since the server started.</p>
    <template v-if="archived.length">
      <h2>Archived</h2>
      <table class="grid sheet">
        <tbody>
          <tr v-for="p in archived" :key="p.id">
            <td>
              <b>{{ p.name }}</b>
            </td>
            <td class="dim">made {{ when(p.madeAt) }} by {{ p.madeBy }}</td>
            <td>
              <span class="acts"><button v-if="may" class="btn small" @click="restore(p)">Bring back</button></span>
            </td>
          </tr>
        </tbody>
      </table>
    </template>
    <form v-if="copies" class="sheet copies" @submit.prevent="setCopies">
      <h2>Daily copies</h2>
      <p class="dim">Each day’s project file of every open project, written into a folder on the server. Empty for none.</p>
      <label
        >Folder
        <input
          id="copy-folder"
          class="field mono"
          :value="folder ?? copies.folder"
          :disabled="!store.may('administrator')"
          placeholder="/srv/copies"
          spellcheck="false"
          @input="folder = ($event.target as HTMLInputElement).value"
      /></label>
      <label
        >the newest
        <input
          class="field mono"
          type="number"
          min="1"
          max="3650"
          :value="days ?? copies.keepDays"
          :disabled="!store.may('administrator')"
          aria-label="How many copies of each project are kept"
          @input="days = Number(($event.target as HTMLInputElement).value)"
        />
        of each project stay</label
      >
      <button v-if="store.may('administrator')" class="btn" :disabled="folder === null && days === null">Set, and write today’s</button>
      <span v-else class="dim">An administrator sets this.</span>
      <p v-if="copies.problem" class="wrong" role="alert">{{ copies.problem }}</p>
      <p v-else-if="copies.lastAt" class="dim">✓ {{ copies.lastCount }} written {{ when(copies.lastAt) }}</p>
    </form>
    <ModalBox v-if="making" label="A project" @close="making = null">
      <form class="box" @submit.prevent="make">
        <h2>{{ making.of ? `Copy ‘${making.of.name}’` : 'Make a project' }}</h2>
        <p class="dim">
          {{
            making.of
              ? 'The copy has the whole design with its history and snapshots. Its site is new: nothing is installed on it yet. Libraries and accounts are shared.'
              : 'It begins empty, with a history and a virtual site of its own. Libraries and accounts are shared.'
          }}
        </p>
        <label class="row"><span>Name</span><input id="project-name" v-model="making.name" class="field" required maxlength="80" autofocus /></label>
        <p>
          <button class="btn main">{{ making.of ? 'Copy it' : 'Make and open it' }}</button>&nbsp;<button type="button" class="btn" @click="making = null">
            Leave
          </button>
        </p>
      </form>
    </ModalBox>
    <ModalBox v-if="renaming" label="Rename a project" @close="renaming = null">
      <form class="box" @submit.prevent="rename">
        <h2>Rename</h2>
        <label class="row"><span>Name</span><input v-model="renaming.name" class="field" required maxlength="80" autofocus /></label>
        <p><button class="btn main">Rename</button>&nbsp;<button type="button" class="btn" @click="renaming = null">Leave</button></p>
      </form>
    </ModalBox>
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 5px;
  justify-content: flex-end;
}
.copies {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
  margin-top: 14px;
}
.copies > h2,
.copies > p {
  width: 100%;
  margin: 0;
}
.copies input[type='number'] {
  width: 80px;
}
#copy-folder {
  width: 340px;
}
.box {
  display: grid;
  gap: 8px;
}
</style>
