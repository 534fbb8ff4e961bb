<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Run } from '../api/types'
import HoldButton from '../parts/common/HoldButton.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { tally, trouble } from '../parts/runs/row'
import RunDrives from '../parts/runs/RunDrives.vue'
import RunNames from '../parts/runs/RunNames.vue'
import RunRow from '../parts/runs/RunRow.vue'
import { dated } from '../words/format'
import { useKeys } from '../words/keys'
import { vMay } from '../words/may'
import { tellMe, telling } from '../words/tell'

/** A run: its row of drives, which of them need somebody, and what is done with all of them. */
const props = defineProps<{ id: string }>()
const run = ref<Run | null>(null)
const error = ref('')
const busy = ref(false)
const sample = ref(2)
/** Troubles that are told above the row: the row itself has to be seen. */
const TOLD = computed(() => ((run.value?.places.length ?? 0) > 24 ? 1 : 3))
const at = (...states: Run['places'][number]['state'][]) =>
  run.value?.places.filter((place) => states.includes(place.state)).length ?? 0
const troubles = computed(() => run.value?.places.filter((place) => trouble(place)) ?? [])
const running = computed(() => at('running', 'queued'))
const waiting = computed(() => at('ready', 'paused', 'stopped', 'failed'))
const written = computed(() => run.value?.places.filter((place) => place.write?.verified).length ?? 0)
const unnamed = computed(() => run.value?.places.filter((place) => place.name_error).length ?? 0)
const sub = computed(() => {
  const one = run.value
  if (!one) return undefined
  const image = `Image of ${one.image.computer ?? 'an unknown computer'}, ${dated(one.image.taken_at)}`
  return [image, one.way_name, `begun by ${one.technician}`].join(' · ')
})

async function load() {
  try {
    run.value = await api.get<Run>(`/runs/${props.id}`)
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function ask(what: 'start' | 'pause' | 'try' | 'names') {
  busy.value = true
  error.value = ''
  try {
    const body = what === 'try' ? { count: Math.min(sample.value, written.value) } : {}
    const answer = await api.post<Run | { run: Run; left: { computer: string; message: string }[] }>(
      `/runs/${props.id}/${what}`,
      body,
    )
    run.value = 'run' in answer ? answer.run : answer
    if ('left' in answer) error.value = answer.left.map((one) => `${one.computer}: ${one.message}`).join('; ')
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}

watch(
  () => props.id,
  () => {
    run.value = null
    load()
  },
)
useLive({
  write: (next) => {
    const place = run.value?.places.find((one) => one.docket_id === next.docket_id)
    if (!place) return
    if (place.write?.state === next.state) place.write = next
    else load()
  },
  event: load,
  trial: (next) => next.state === 'done' && load(),
  bench: load,
  back: load,
})
useKeys({ r: load })
load()
</script>

<template>
  <div class="beside">
    <StationFrame
      :title="run ? `${run.number}, ${run.places.length} drives` : 'A run'"
      :sub="sub"
      :error="error || null"
      :loading="!run"
      page
    >
      <template v-if="run" #corner>
        <a class="btn slim" :href="`/api/runs/${run.id}/stickers.pdf`">Stickers</a>
        <a class="btn slim" :href="`/api/runs/${run.id}/report.pdf`">Report</a>
        <a class="btn slim" :href="`/api/runs/${run.id}/report.csv`">CSV</a>
      </template>
      <template v-if="run">
        <ul v-if="troubles.length" class="troubles" aria-label="Troubles">
          <li v-for="place in troubles.slice(0, TOLD)" :key="place.place">
            <RouterLink :to="`/dockets/${place.docket_id}`"
              ><b>{{ place.computer }}</b></RouterLink
            ><span>{{ place.port ? `port ${place.port}: ` : '' }}{{ trouble(place) }}</span>
          </li>
          <li v-if="troubles.length > TOLD" class="more">{{ troubles.length - TOLD }} more need somebody: see below</li>
        </ul>
        <RunRow :run="run" />
        <p class="small muted why">
          “{{ run.reason }}”{{ run.note ? ` · ${run.note}` : '' }} · Each with identities of its own
        </p>
        <RunNames v-if="run.named" :run="run" />
      </template>
      <template v-if="run" #foot>
        <span class="said" role="status">{{ tally(run) }}</span>
        <label class="small tick push"
          ><input type="checkbox" :checked="telling" @change="tellMe(!telling)" /> Tell me of each</label
        >
        <template v-if="written && !running">
          <label class="small"
            >Prove <input v-model.number="sample" type="number" min="1" :max="written" /> of {{ written }}</label
          >
          <button v-may="'technician'" type="button" class="btn" :disabled="busy" @click="ask('try')">
            Start them in the emulator
          </button>
        </template>
        <button v-if="unnamed" v-may="'technician'" type="button" class="btn" :disabled="busy" @click="ask('names')">
          Name {{ unnamed }} again
        </button>
        <button v-if="running" v-may="'technician'" type="button" class="btn" :disabled="busy" @click="ask('pause')">
          Pause all
        </button>
        <template v-if="waiting">
          <HoldButton v-may="'technician'" :disabled="busy" @held="ask('start')"
            >Hold to overwrite {{ waiting }} {{ waiting === 1 ? 'drive' : 'drives' }}</HoldButton
          ><span class="key">Enter</span>
        </template>
      </template>
    </StationFrame>
    <RunDrives v-if="run" :run="run" @changed="run = $event" />
  </div>
</template>

<style scoped>
.troubles {
  list-style: none;
  margin: 4px 0 10px;
  padding: 0;
  display: grid;
  gap: 4px;
}
.troubles li {
  display: flex;
  gap: 10px;
  border: 1px solid var(--crimson);
  background: var(--crimson-l);
  border-radius: 7px;
  padding: 6px 10px;
  font-size: 14px;
}
.troubles .more {
  border: 0;
  background: none;
  padding: 0 10px;
}
.why {
  margin-top: 10px;
}
.said {
  font-size: 14px;
}
.said ~ label {
  white-space: nowrap;
}
.tick {
  display: flex;
  gap: 6px;
  align-items: center;
}
input[type='number'] {
  width: 3.6em;
}
</style>
