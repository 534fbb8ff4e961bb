<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Run, State } from '../../api/types'
import { bytes } from '../../words/format'
import { vMay } from '../../words/may'
import HoldButton from '../common/HoldButton.vue'
import StateMark from '../common/StateMark.vue'

/** Which drives get the image: their labels in any order, or all on which nothing lies. */
const props = defineProps<{ run: Run }>()
const emit = defineEmits<{ changed: [run: Run] }>()
const label = ref('')
const reason = ref('')
const error = ref('')
const busy = ref(false)
const SHAPES: Record<Run['drives'][number]['state'], State> = { clear: 'ok', ask: 'ask', refused: 'no' }
const open = computed(() => props.run.places.filter((place) => place.state === 'open').length)
/** Blank drives that are alike: one press takes them all. */
const blank = computed(() => {
  const groups = new Map<string, number[]>()
  for (const drive of props.run.drives.filter((one) => one.blank && one.state !== 'refused')) {
    const name = `${drive.name}, ${bytes(drive.capacity)}`
    groups.set(name, [...(groups.get(name) ?? []), drive.id])
  }
  return [...groups].filter(([, ids]) => ids.length > 1 || groups.size === 1)
})
const drives = computed(() =>
  [...props.run.drives].sort((a, b) => rank(a) - rank(b) || a.port.localeCompare(b.port, 'en', { numeric: true })),
)
const asks = computed(() => props.run.drives.some((drive) => drive.state === 'ask'))

/** What can be taken first. */
function rank(drive: Run['drives'][number]): number {
  return drive.state === 'refused' ? 2 : drive.blank ? 0 : 1
}

const take = (given: { label: string } | { blank: number[] }) =>
  ask(() => api.post<Run>(`/runs/${props.run.id}/drives`, { ...given, reason: reason.value || null }))
const watchFor = (way: 'unplug' | 'next') =>
  ask(() => api.post<Run>(`/runs/${props.run.id}/watch`, { way, reason: reason.value || null }))
const stopWatching = () => ask(() => api.delete<Run>(`/runs/${props.run.id}/watch`))

async function ask(request: () => Promise<Run>) {
  busy.value = true
  error.value = ''
  try {
    emit('changed', await request())
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    label.value = ''
    busy.value = false
  }
}

function typed() {
  if (label.value.trim().length === 4) take({ label: label.value })
}
</script>

<template>
  <aside class="drives scroll" aria-label="Drives" tabindex="0">
    <h2>Which drives</h2>
    <p v-if="!open" class="small muted">Each of its computers has a drive.</p>
    <template v-else>
      <form class="typing" @submit.prevent="typed">
        <label class="field"
          >The last four characters of a label<input
            v-model="label"
            v-may="'technician'"
            class="mono"
            maxlength="4"
            autocomplete="off"
            spellcheck="false"
            :disabled="busy"
            data-label
            @input="typed"
        /></label>
      </form>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <label v-if="asks" class="field"
        >Why they may be overwritten<input
          v-model="reason"
          maxlength="2000"
          placeholder="Where one of them needs a reason"
      /></label>
      <button
        v-for="[name, ids] in blank"
        :key="name"
        v-may="'technician'"
        type="button"
        class="btn slim"
        :disabled="busy"
        @click="take({ blank: ids.slice(0, open) })"
      >
        {{ ids.length === 1 ? 'The blank' : `${Math.min(ids.length, open)} blank` }} {{ name }}
      </button>
      <section v-if="run.watch" class="watching" role="status">
        <b>{{ run.watch.way === 'unplug' ? 'Unplug them one by one' : 'Plug in the next' }}</b><span class="small">{{
          run.watch.way === 'unplug'
            ? 'In any order, each back into any port: each goes to the next computer.'
            : 'Each blank drive that comes is written at once.'
        }}</span
        ><span v-if="run.watch.away" class="small"
          >{{ run.watch.away }} {{ run.watch.away === 1 ? 'is' : 'are' }} out</span
        >
        <span v-for="(one, index) in run.watch.said" :key="index" class="small said"
          >Port {{ one.port }}: {{ one.message }}</span
        >
        <button v-may="'technician'" type="button" class="btn slim" :disabled="busy" @click="stopWatching">
          Take no more
        </button>
      </section>
      <div v-else class="ways">
        <button v-may="'technician'" type="button" class="btn slim" :disabled="busy" @click="watchFor('unplug')">
          Prove by unplugging
        </button>
        <HoldButton v-may="'technician'" aside :disabled="busy" @held="watchFor('next')"
          >Hold: write each blank one that comes</HoldButton
        >
      </div>
      <ul>
        <li v-for="drive in drives" :key="drive.id" :class="drive.state">
          <StateMark :state="SHAPES[drive.state]" />
          <span
            ><b>Port {{ drive.port }}</b> {{ drive.name }}, {{ bytes(drive.capacity)
            }}<small>{{
              [drive.blank ? 'Blank' : drive.hosts.join(', '), drive.reason].filter(Boolean).join(' · ')
            }}</small></span
          >
        </li>
        <li v-if="!run.drives.length" class="small muted">No drive is attached that it could go onto.</li>
      </ul>
    </template>
  </aside>
</template>

<style scoped>
.drives {
  padding: 14px 18px;
  display: flex;
  flex-direction: column;
  gap: 10px;
}
h2 {
  font-size: 15px;
  font-weight: 750;
}
.typing input {
  font-size: 26px;
  letter-spacing: 0.2em;
  text-transform: uppercase;
  width: 6.2em;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
  font-size: 14px;
}
li {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 8px;
}
small {
  display: block;
  color: var(--ink2);
}
.watching,
.ways {
  display: flex;
  flex-direction: column;
  gap: 6px;
}
.ways :deep(.hold) {
  align-self: stretch;
  font-size: 14px;
  padding: 6px 10px;
  white-space: normal;
}
.watching {
  border: 1px solid var(--ember);
  border-radius: 8px;
  padding: 10px 12px;
}
.said {
  color: var(--ochre-ink);
}
.refused {
  color: var(--ink2);
}
.btn {
  align-self: start;
}
</style>
