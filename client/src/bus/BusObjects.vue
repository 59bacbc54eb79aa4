<script setup lang="ts">
import { computed, ref } from 'vue'
import { useShown } from '../shared/api/cache'
import { post, type Schemas } from '../shared/api/http'
import { useStore } from '../shared/store'
import { useDo } from '../shared/useDo'

/** The communication objects of a device, and the group addresses that each is joined to. */
const props = defineProps<{ view: Schemas['BusDeviceView']; channel: string }>()
const store = useStore()
const attempt = useDo()
const {
  value: objects,
  problem,
  reload,
} = useShown('/bus/devices/{id}/objects', () => ({ path: { id: props.view.device.id } }), ['busDevice', 'groupAddress', 'deviceDescription'])
const all = ref(false)
const shown = computed(() => objects.value?.filter((o) => all.value || o.channel === props.channel))
const join = (o: Schemas['ObjectView'], text: string) =>
  attempt(() =>
    post('/bus/devices/{id}/joins', {
      path: { id: props.view.device.id },
      body: { object: o.path, groups: text.split(/[,;\s]+/).filter(Boolean), make: true, from: props.view.revision },
    }),
  )
</script>

<template>
  <div>
    <ErrorState v-if="problem" :problem="problem" @again="reload" />
    <div class="tools"><NCheckbox v-model:checked="all">of all channels</NCheckbox></div>
    <EmptyState v-if="shown && !shown.length" title="No object"
      >This channel says and hears nothing as it is set. Choose a function for it under Parameters.</EmptyState
    >
    <div v-else class="sheet">
      <NTable size="small" :bordered="false" class="close">
        <thead>
          <tr>
            <th class="num">No.</th>
            <th>Object</th>
            <th>Type</th>
            <th>Flags</th>
            <th>Group addresses, the first is sent to</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="o in shown" :key="o.path" :data-object="o.path">
            <td class="num">{{ o.number }}</td>
            <td>
              {{ o.name }} <span class="dim tiny">{{ o.sends ? '→ says' : '' }}{{ o.sends && o.hears ? ', ' : '' }}{{ o.hears ? '← hears' : '' }}</span>
              <p v-if="!o.isThere" class="wrong tiny">○ {{ o.hidden }}</p>
            </td>
            <td>
              <span class="mono">{{ o.type }}</span> {{ o.typeName }}
            </td>
            <td class="mono" :title="'C communicates, R answers, W is written, T sends, U takes answers, I asks at the start'">{{ o.flags }}</td>
            <td>
              <TextBox
                lazy
                mono
                size="small"
                :model-value="o.groups.map((g) => g.number).join(', ')"
                :disabled="!store.may('engineer')"
                placeholder="1/2/34"
                :aria-label="`Group addresses of ${o.name}`"
                @update:model-value="(text: string) => join(o, text)"
              />
              <span class="dim tiny">{{ o.groups.map((g) => g.name).join('; ') }}</span>
            </td>
          </tr>
        </tbody>
      </NTable>
    </div>
  </div>
</template>

<style scoped>
.tools {
  margin-bottom: 8px;
}
p {
  margin: 0;
}
</style>
