<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../../api/client'
import type { Colleague, Docket, DocketEvent } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'
import ComputerPicker from '../computers/ComputerPicker.vue'
import OnTelephone from './OnTelephone.vue'
import type { Picked } from '../computers/picked'

/** What can be done with a docket as a whole: its report, what happened, handing it over, copying it. */
const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ changed: [] }>()
const router = useRouter()
const menu = ref(false)
const telephone = ref(false)
const open = ref<'over' | 'copy' | 'events' | null>(null)
const error = ref('')
const colleagues = ref<Colleague[]>([])
const equal = ref<Picked | null>(null)
const events = ref<DocketEvent[]>([])
const chain = ref<{ count: number; whole: boolean; head: string | null; broken_at: number | null } | null>(null)
const to = ref<number | ''>('')
const note = ref('')
const path = (what: string) => `/dockets/${props.docket.id}/${what}`

async function attempt<T>(request: () => Promise<T>): Promise<T | undefined> {
  error.value = ''
  try {
    return await request()
  } catch (problem) {
    error.value = errorText(problem)
    return undefined
  }
}

async function show(what: 'over' | 'copy' | 'events') {
  menu.value = false
  open.value = what
  error.value = ''
  to.value = ''
  equal.value = null
  note.value = props.docket.waits_note ?? ''
  if (what === 'over') colleagues.value = (await attempt(() => api.get<Colleague[]>('/technicians'))) ?? []
  if (what === 'events') {
    events.value = (await attempt(() => api.get<DocketEvent[]>(path('events')))) ?? []
    chain.value = (await attempt(() => api.get<NonNullable<typeof chain.value>>(path('chain')))) ?? null
  }
}

async function handOver() {
  const done = await attempt(() =>
    api.post<Docket>(path('hand-over'), { technician_id: to.value || null, note: note.value }),
  )
  if (!done) return
  open.value = null
  emit('changed')
}

async function copy() {
  const made = await attempt(() => api.post<Docket>(path('copy'), { computer_id: equal.value!.id }))
  if (!made) return
  open.value = null
  router.push(`/dockets/${made.id}`)
}
</script>

<template>
  <div class="menu-at" @keydown.esc.stop="menu = false">
    <button type="button" class="btn slim" :aria-expanded="menu" aria-haspopup="true" @click="menu = !menu">
      Docket…
    </button>
    <div v-if="menu" class="menu">
      <a class="btn slim" :href="`/api/dockets/${docket.id}/report.pdf`" download @click="menu = false"
        >Report as PDF</a
      >
      <a
        class="btn slim"
        :href="`/api/dockets/${docket.id}/report`"
        :download="`${docket.number}.json`"
        @click="menu = false"
        >Report as JSON</a
      >
      <button type="button" class="btn slim" @click="show('events')">What happened</button>
      <button v-may="'technician'" v-if="!docket.closed_at" type="button" class="btn slim" @click="show('over')">
        Hand over…
      </button>
      <button v-may="'technician'" type="button" class="btn slim" @click="show('copy')">
        Copy for an equal computer…
      </button>
      <button type="button" class="btn slim" @click="((menu = false), (telephone = true))">On the telephone…</button>
      <RouterLink class="btn slim" :to="`/computers/${docket.computer_id}`"
        >History of {{ docket.computer }}</RouterLink
      >
    </div>
  </div>
  <OnTelephone v-if="telephone" v-model:visible="telephone" :docket="docket.id" />
  <Dialog
    :visible="open === 'events'"
    modal
    header="What happened"
    :style="{ width: '720px' }"
    @update:visible="open = null"
  >
    <p v-if="chain" class="small" :class="{ message: !chain.whole }">
      {{
        chain.whole
          ? `${chain.count} events, each chained to the one before: nothing was changed`
          : `Event ${chain.broken_at} is not what it was when it was written`
      }}<template v-if="chain.head">
        · <span class="mono">{{ chain.head.slice(0, 16) }}…</span></template
      >
    </p>
    <ol class="scroll">
      <li v-for="event in events" :key="event.id">
        <span class="when small muted">{{ moment(event.at) }}</span><span>{{ event.text }}</span
        ><span class="small muted">{{ event.by ?? 'Evrel' }}</span>
      </li>
    </ol>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
  </Dialog>
  <Dialog
    :visible="open === 'over'"
    modal
    :header="`Hand ${docket.number} over`"
    :style="{ width: '480px' }"
    @update:visible="open = null"
  >
    <form class="form" @submit.prevent="handOver">
      <label class="field"
        >To<select v-model="to">
          <option value="">whoever comes first</option>
          <option v-for="one in colleagues" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select></label
      >
      <label class="field"
        >Note<textarea v-model="note" rows="2" maxlength="200" placeholder="What is next, and where things lie" />
      </label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go">Hand it over</button>
    </form>
  </Dialog>
  <Dialog
    :visible="open === 'copy'"
    modal
    header="The same for an equal computer"
    :style="{ width: '480px' }"
    @update:visible="open = null"
  >
    <form class="form" @submit.prevent="copy">
      <ComputerPicker v-model="equal" label="Computer" :but="docket.computer_id" known-only />
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go" :disabled="!equal">Open its docket</button>
    </form>
  </Dialog>
</template>

<style scoped>
.menu-at {
  position: relative;
}
.menu {
  position: absolute;
  right: 0;
  top: calc(100% + 6px);
  z-index: 20;
  display: grid;
  gap: 6px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 9px;
  padding: 10px;
  min-width: 230px;
  box-shadow: 0 8px 24px rgb(0 0 0 / 14%);
}
.menu .btn {
  justify-content: flex-start;
}
ol {
  list-style: none;
  margin: 8px 0 0;
  padding: 0;
  max-height: 420px;
}
li {
  display: grid;
  grid-template-columns: 110px 1fr 80px;
  gap: 10px;
  padding: 6px 0;
  border-bottom: 1px solid var(--fold);
  overflow-wrap: anywhere;
}
.form {
  display: grid;
  gap: 12px;
}
</style>
