<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { BenchDrive, Unplug } from '../../api/types'
import { taskWords } from '../../words/drives'
import { localDay } from '../../words/format'
import DateField from '../common/DateField.vue'
import StandsStill from '../common/StandsStill.vue'
import ComputerDialog from '../computers/ComputerDialog.vue'
import { vMay } from '../../words/may'

/** Protecting, cleaning and testing the drive in a port. */
const props = defineProps<{ drive: BenchDrive; port: string; unplug: Unplug | null }>()
const emit = defineEmits<{ changed: []; hide: [on: boolean] }>()
const asking = ref<'protection' | 'clean' | 'capacity-test' | null>(null)
/** Somebody says whose it is. */
const owning = ref(false)
const error = ref('')
const note = ref('')
const until = ref<Date | null>(null)
const how = ref('signatures')
const label = ref('')
const reason = ref('')
const whole = ref(false)
const unplugged = computed(() => props.unplug?.drive_id === props.drive.id && props.unplug.good)
const proof = computed(() => (unplugged.value ? { unplugged: true } : { label: label.value }))
const TITLES = {
  protection: 'Protect this drive',
  clean: 'Clean this drive',
  'capacity-test': 'Test its true capacity',
} as const
const HOWS = {
  signatures: 'Table and volume signatures: quick, contents stay readable',
  discard: 'All blocks discarded, then read back',
  overwrite: 'All blocks overwritten with zeros, then read back',
} as const

// A proof that can be read off the screen is none.
watch(asking, (now) => emit('hide', now === 'clean' || now === 'capacity-test'))

function open(what: NonNullable<typeof asking.value>) {
  error.value = note.value = label.value = reason.value = ''
  until.value = null
  whole.value = false
  asking.value = what
}

async function send() {
  error.value = ''
  const body = {
    protection: { note: note.value, until: until.value && localDay(until.value) },
    clean: { how: how.value, reason: reason.value, ...proof.value },
    'capacity-test': { whole: whole.value, reason: reason.value, ...proof.value },
  }
  try {
    await api.post(`/drives/${props.drive.id}/${asking.value}`, body[asking.value!])
    asking.value = null
    emit('changed')
  } catch (problem) {
    error.value = errorText(problem)
    label.value = ''
  }
}

async function startUnplug() {
  asking.value = null
  await call(api.post(`/drives/${props.drive.id}/unplug-check`))
}

async function call(work: Promise<unknown>) {
  error.value = ''
  await work.catch((problem) => (error.value = errorText(problem)))
  emit('changed')
}
</script>

<template>
  <div class="acts">
    <RouterLink class="btn slim" :to="`/drives/${drive.id}/take`">Take an image… <span class="key">I</span></RouterLink>
    <button
      v-if="drive.protection"
      type="button"
      class="btn slim"
      @click="call(api.delete(`/drives/${drive.id}/protection`))"
    >
      Lift the protection
    </button>
    <button v-may="'technician'" v-else type="button" class="btn slim" @click="open('protection')">Protect…</button>
    <button v-may="'technician'" type="button" class="btn slim" :disabled="!!drive.refused" @click="open('clean')">
      Clean…
    </button>
    <button
      v-may="'technician'"
      type="button"
      class="btn slim"
      :disabled="!!drive.refused"
      @click="open('capacity-test')"
    >
      Test its capacity…
    </button>
    <button v-if="!drive.owner" v-may="'technician'" type="button" class="btn slim" @click="owning = true">
      Say whose…
    </button>
    <StandsStill v-if="drive.task" :work="`task-${drive.task.id}`" :running="drive.task.state === 'running'" />
    <button
      v-if="drive.task && ['queued', 'running'].includes(drive.task.state)"
      type="button"
      class="btn slim"
      @click="call(api.post(`/tasks/${drive.task.id}/stop`))"
    >
      Stop: {{ taskWords(drive.task) }}
    </button>
  </div>
  <p v-if="error && !asking" class="message small" role="alert">{{ error }}</p>
  <ComputerDialog
    v-if="owning"
    v-model:visible="owning"
    :from="{ kind: 'drive', id: drive.id }"
    @kept="emit('changed')"
    @same="(id) => call(api.post(`/drives/${drive.id}/computer`, { computer_id: id }))"
  />
  <Dialog
    :visible="asking !== null"
    modal
    :header="asking ? TITLES[asking] : ''"
    :style="{ width: '500px' }"
    @update:visible="asking = null"
  >
    <form @submit.prevent="send">
      <template v-if="asking === 'protection'">
        <p class="small">No docket can take it as its target, and nothing cleans it, until you or a lead lift that.</p>
        <label class="field">What is on it<input v-model="note" required maxlength="200" autofocus /></label>
        <label class="field">Until the end of, if that is known<DateField v-model="until" /></label>
      </template>
      <template v-else>
        <p v-if="asking === 'clean'" class="small">What is on the drive in port {{ port }} is lost.</p>
        <p v-else class="small">
          Writes to free room only, reads it back, and puts back what was there. A false drive forgets what is written
          behind its true end, or begins anew at its start.
        </p>
        <div v-if="asking === 'clean'" class="kinds" role="radiogroup" aria-label="How">
          <label v-for="(words, key) in HOWS" :key="key" :class="{ on: how === key }"
            ><input v-model="how" type="radio" name="how" :value="key" />{{ words }}</label
          >
        </div>
        <label v-if="asking === 'capacity-test'" class="small"
          ><input v-model="whole" type="checkbox" /> Test used room too: what is on the drive is lost</label
        >
        <label v-if="(asking === 'clean' || whole) && drive.decisions.length" class="field"
          >Say why, since it is:
          {{
            drive.decisions
              .map((fact) => fact.title)
              .join('; ')
              .toLowerCase()
          }}<input v-model="reason" required maxlength="200"
        /></label>
        <p v-if="unplugged" class="small proved">Proved: you pulled it out and plugged it in again</p>
        <div v-else class="proofs">
          <label v-if="drive.serial.length >= 4" class="field"
            >The last four characters of its own label<input
              v-model="label"
              required
              maxlength="4"
              minlength="4"
              class="mono label"
              autocomplete="off"
              spellcheck="false"
              autofocus /></label
          ><span v-if="drive.serial.length >= 4" class="muted small">or</span
          ><button type="button" class="btn slim" @click="startUnplug">Prove it by unplugging it…</button>
        </div>
      </template>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <div>
        <button type="submit" class="btn" :class="asking === 'clean' || whole ? 'hot' : 'go'">
          {{
            asking === 'protection' ? 'Protect it' : asking === 'clean' ? `Clean the drive in port ${port}` : 'Test it'
          }}
        </button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
form {
  display: grid;
  gap: 14px;
}
.kinds {
  display: grid;
  gap: 6px;
}
.kinds label {
  display: flex;
  gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 7px;
  padding: 7px 10px;
  cursor: pointer;
  font-size: 14px;
}
.kinds label.on {
  border-color: var(--ember);
  box-shadow: inset 0 0 0 1px var(--ember);
}
.proofs .field {
  flex: none;
}
.proofs {
  display: flex;
  gap: 12px;
  align-items: end;
}
.proofs > span,
.proofs > button {
  margin-bottom: 6px;
}
.proved {
  color: var(--spruce);
  font-weight: 650;
}
.label {
  width: 140px;
  font-size: 20px;
  letter-spacing: 0.25em;
  text-transform: uppercase;
}
</style>
