<script setup lang="ts">
import { computed, ref } from 'vue'
import { get, type Schemas } from '../api/http'
import { change, put, type RecordType } from '../api/records'
import { useLoaded, useStore } from '../store'
import { useDo } from '../useDo'

/** The tags of a record: direct ones to write and take off, derived ones with what gave them. */
const props = defineProps<{ record: { id: string; tags?: Record<string, string> | null }; type: RecordType; revision: number }>()
const store = useStore()
const attempt = useDo()
const adding = ref('')
const open = ref(false)
const { value: tags } = useLoaded<Schemas['TagView'][]>(() => get(`/tags/of/${props.record.id}`), undefined, ['taggingRule', 'place', 'equipment', 'point'])
const markers = computed(() => (tags.value ?? []).filter((t) => t.value === 'M'))
const valued = computed(() => (tags.value ?? []).filter((t) => t.value !== 'M'))
const save = (next: Record<string, string>) =>
  attempt(() => change([put(props.type, { ...props.record, tags: Object.keys(next).length ? next : null }, props.revision)]))
async function add() {
  const [name, ...rest] = adding.value.trim().split(':')
  if (name && (await save({ ...props.record.tags, [name]: rest.join(':') || 'M' }))) adding.value = ''
}
function takeOff(name: string) {
  const { [name]: _, ...rest } = props.record.tags ?? {}
  void save(rest)
}
</script>

<template>
  <h3>
    Tags <button class="btn small" :aria-expanded="open" @click="open = !open">{{ open ? 'Fewer' : 'Why these?' }}</button>
  </h3>
  <p class="tags">
    <span v-for="t in markers" :key="t.name" class="pill" :class="{ plum: t.origin === 'direct' }" :title="t.why"
      >{{ t.name
      }}<button v-if="t.origin === 'direct' && store.may('engineer')" class="off" :aria-label="`Take ${t.name} off`" @click="takeOff(t.name)">✕</button></span
    >
  </p>
  <table v-if="open" class="grid">
    <tbody>
      <tr v-for="t in [...valued, ...markers]" :key="t.name">
        <td class="mono">{{ t.name }}</td>
        <td class="mono">{{ t.value === 'M' ? '' : t.value }}</td>
        <td class="dim">
          {{ t.why
          }}<button
            v-if="t.origin === 'direct' && t.value !== 'M' && store.may('engineer')"
            class="off"
            :aria-label="`Take ${t.name} off`"
            @click="takeOff(t.name)"
          >
            ✕
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <form v-if="store.may('engineer')" class="add" @submit.prevent="add">
    <input v-model="adding" class="field mono" placeholder="tag, or tag:value" aria-label="Add a direct tag" /><button class="btn small">Add</button>
  </form>
</template>

<style scoped>
.tags {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.off {
  border: 0;
  background: none;
  cursor: pointer;
  padding: 0 2px;
}
.add {
  display: flex;
  gap: 6px;
}
.add .field {
  flex: 1;
}
</style>
