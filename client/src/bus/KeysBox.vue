<script setup lang="ts">
import { computed, ref } from 'vue'
import { post, type Schemas } from '../shared/api/http'
import { many } from '../shared/numbers'
import { useDo } from '../shared/useDo'

/** The passphrase that the keys of secured bus devices are locked by. */
const props = defineProps<{ keys: Schemas['BusKeysView'] }>()
const emit = defineEmits<{ close: []; changed: [] }>()
const attempt = useDo()
const present = ref('')
const passphrase = ref('')
const again = ref('')
const isNew = computed(() => props.keys.state !== 'locked')
const send = (word: 'open' | 'change' | 'lock', done: string) =>
  attempt(async () => {
    if (word !== 'lock' && isNew.value && passphrase.value !== again.value) throw new Error('The two are not the same. Type the passphrase once more.')
    const body = { passphrase: passphrase.value, old: present.value || null }
    await (word === 'open' ? post('/bus/keys/open', { body }) : word === 'change' ? post('/bus/keys/change', { body }) : post('/bus/keys/lock', { body }))
    emit('changed')
    emit('close')
  }, done)
</script>

<template>
  <ModalBox label="Keys of bus devices" @close="emit('close')">
    <form @submit.prevent="keys.state === 'open' ? send('change', 'The passphrase is changed') : send('open', 'The keys are open')">
      <h2>Keys of bus devices</h2>
      <p v-if="keys.state === 'none'">
        Secured devices take orders only over sealed telegrams. Their keys are kept locked by a passphrase of this project, {{ keys.fewest }} letters at least.
        It is kept nowhere: whoever loses it must read all stickers again.
      </p>
      <p v-else-if="keys.state === 'locked'">
        The keys of {{ many(keys.known.length, 'device') }} are locked. Open them to put secured devices to work; they lock when the program ends.
      </p>
      <p v-else>The keys of {{ many(keys.known.length, 'device') }} are open until the program ends or you lock them.</p>
      <label v-if="keys.state === 'open'" class="row"
        ><span>Present passphrase</span><TextBox id="passphrase-present" v-model="present" type="password" autocomplete="off" aria-label="Present passphrase"
      /></label>
      <label class="row"
        ><span>{{ keys.state === 'open' ? 'New passphrase' : 'Passphrase' }}</span
        ><TextBox id="passphrase" v-model="passphrase" type="password" autocomplete="off" aria-label="Passphrase"
      /></label>
      <label v-if="isNew" class="row"
        ><span>Once more</span><TextBox id="passphrase-again" v-model="again" type="password" autocomplete="off" aria-label="Passphrase once more"
      /></label>
      <p class="acts">
        <NButton id="passphrase-do" type="primary" attr-type="submit" :disabled="!passphrase || (keys.state === 'open' && !present)">{{
          keys.state === 'none' ? 'Lock keys by it' : keys.state === 'locked' ? 'Open' : 'Change passphrase'
        }}</NButton><NButton v-if="keys.state === 'open'" id="keys-lock" @click="send('lock', 'The keys are locked')">Lock now</NButton
        ><NButton @click="emit('close')">Cancel</NButton>
      </p>
    </form>
  </ModalBox>
</template>
