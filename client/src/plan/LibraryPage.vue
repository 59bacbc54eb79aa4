<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { useShown } from '../shared/api/cache'
import type { Column } from '../shared/ui/records'
import LibraryMenu from './LibraryMenu.vue'
import PlaceForm from './PlaceForm.vue'
import TemplateView from './TemplateView.vue'

const props = defineProps<{ library?: string; template?: string }>()
const router = useRouter()
const { value: libraries, reload } = useShown('/libraries', () => ({}), [])
const { value: view, reload: reloadView } = useShown(
  '/libraries/{library}/templates/{id}',
  () => (props.library && props.template ? { path: { library: props.library, id: props.template } } : null),
  ['namingConvention'],
)
const templates = computed(() =>
  (libraries.value ?? []).flatMap((l) => l.templates.map((t) => ({ ...t, library: l.id, key: `${l.id}/${t.id}`, from: l.name }))),
)
const key = computed(() => (props.template ? `${props.library}/${props.template}` : null))
const chosen = ref(key.value)
watch(key, (k) => k && (chosen.value = k))
watch(chosen, (c) => c && c !== key.value && void router.replace(`/library/${c}`))
const here = computed(() => libraries.value?.find((l) => l.id === props.library))
const columns: Column<(typeof templates.value)[number]>[] = [
  { key: 'name', title: 'Template', sort: (t) => t.name },
  { key: 'from', title: 'Library', width: 110, sort: (t) => t.from },
]
const again = () => Promise.all([reload(), reloadView()])
async function copied(library: string, template: string) {
  await reload()
  await router.push(`/library/${library}/${template}`)
}
</script>

<template>
  <PageShell lede="templates to place again and again">
    <div class="cols">
      <div class="shelf">
        <RecordTable
          v-if="libraries"
          v-model:chosen="chosen"
          :rows="templates"
          :columns="columns"
          :id="(t) => t.key"
          noun="template"
          plural="templates"
          :words="(t) => `${t.name} ${t.folder} ${t.from}`"
        >
          <template #name="{ row: t }"
            ><RouterLink :to="`/library/${t.key}`">{{ t.name }}</RouterLink
            ><br /><span class="dim tiny">{{ t.folder }}</span></template
          >
        </RecordTable>
        <LibraryMenu v-if="libraries" :libraries="libraries" @changed="again" />
      </div>
      <template v-if="view">
        <TemplateView :view="view" :here="here" :libraries="libraries ?? []" @changed="again" @copied="copied" />
        <PlaceForm :key="`${view.libraryId}/${view.template.id}`" :view="view" />
      </template>
    </div>
  </PageShell>
</template>

<style scoped>
.cols {
  display: grid;
  grid-template-columns: 300px minmax(340px, 1fr) minmax(400px, 1.2fr);
  gap: 12px;
  align-items: start;
}
@container frame (max-width: 1150px) {
  .cols {
    grid-template-columns: 220px minmax(0, 1fr) minmax(0, 1.4fr);
  }
}
.shelf {
  display: grid;
  gap: 10px;
}
</style>
