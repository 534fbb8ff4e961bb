<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../api/client'
import type { ComputerAbout, ComputerHistory } from '../api/types'
import { useLive } from '../api/live'
import ReadinessLine from '../parts/readiness/ReadinessLine.vue'
import ComputerPhotos from '../parts/computers/ComputerPhotos.vue'
import StateMark from '../parts/common/StateMark.vue'
import ComputerDialog from '../parts/computers/ComputerDialog.vue'
import MergeDialog from '../parts/computers/MergeDialog.vue'
import { bytes, moment } from '../words/format'
import { vMay } from '../words/may'
import { useHistory } from './useHistory'

/** What is written down of a computer, and what it has been through. */
const props = defineProps<{ id: string }>()
const {
  history,
  error,
  load: again,
} = useHistory<ComputerHistory>(
  () => `/computers/${props.id}/history`,
  (one) => one.name,
)
const { history: about, load: aboutAgain } = useHistory<ComputerAbout>(
  () => `/computers/${props.id}`,
  (one) => one.name,
)
const changing = ref(false)
const merging = ref(false)
const known = computed(() => {
  const one = about.value
  if (!one) return []
  const words: [string, string | null][] = [
    ['Owner', one.owner],
    ['Serial number', one.serial],
    ['Starts by', one.firmware ? `${one.firmware.toUpperCase()}${one.secure_boot ? ', secure boot on' : ''}` : null],
    ['Start order', one.boot_order.join(', ')],
    ['Boot menu', one.boot_menu],
    ['Must not be lost', one.precious],
    ['Note', one.note],
    ...Object.entries(one.free),
  ]
  return words.filter(([, value]) => value)
})

async function putAside(aside: boolean) {
  await api
    .post(`/computers/${props.id}/aside`, { aside })
    .then(aboutAgain)
    .catch((problem) => (error.value = errorText(problem)))
}

const refresh = () => Promise.all([again(), aboutAgain()])

async function prove(path: string) {
  await api
    .post(path)
    .then(again)
    .catch((problem) => (error.value = errorText(problem)))
}

useLive({
  event: (event) => /^(proof|image|trial|computer)/.test(event.kind) && refresh(),
  proof: (proof) => {
    if (history.value && proof.computer_id === history.value.readiness.id) history.value.readiness.proof = proof
  },
  back: refresh,
})
</script>

<template>
  <div class="history scroll">
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <template v-if="history">
      <div class="head">
        <h1>
          {{ history.name
          }}<span class="muted small">{{
            [history.place, history.model, history.identity].filter(Boolean).join(' · ')
          }}</span>
        </h1>
        <span v-if="about?.aside" class="chip">put aside</span>
        <template v-if="about">
          <button v-may="'technician'" type="button" class="btn slim push" @click="changing = true">Change…</button>
          <button v-may="'technician'" type="button" class="btn slim" @click="merging = true">
            It is the same as…
          </button>
          <button v-may="'technician'" type="button" class="btn slim" @click="putAside(!about.aside)">
            {{ about.aside ? 'Take back' : 'Put aside' }}
          </button>
        </template>
      </div>
      <section v-if="about" class="known" aria-label="What is known">
        <dl v-if="known.length">
          <template v-for="[word, value] in known" :key="word"
            ><dt>{{ word }}</dt>
            <dd>{{ value }}</dd></template
          >
        </dl>
        <p v-if="!about.firmware" class="small">
          <span class="chip ask">How it starts is not known</span> Until somebody chooses, it is read off its image.
        </p>
      </section>
      <ul class="readiness" aria-label="Readiness">
        <ReadinessLine
          :row="history.readiness"
          alone
          @prove="prove(`/computers/${id}/prove`)"
          @stop="prove(`/proofs/${history.readiness.proof!.id}/stop`)"
        />
      </ul>
      <div class="columns">
        <section aria-label="Dockets">
          <h2>Dockets</h2>
          <table v-if="history.dockets.length" class="list">
            <tbody>
              <tr v-for="one in history.dockets" :key="one.id">
                <td>
                  <RouterLink :to="`/dockets/${one.id}`" class="mono">{{ one.number }}</RouterLink>
                </td>
                <td>
                  {{ one.cause }}
                  <div class="small muted">opened {{ moment(one.opened_at) }}</div>
                </td>
                <td>
                  {{ one.closed_at ? `signed off ${moment(one.closed_at)}` : `at ${one.state}` }}
                  <div class="small muted">{{ one.proof }}</div>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None yet.</p>
          <template v-if="history.starts.length">
            <h2>Starts</h2>
            <ul class="trail">
              <li v-for="one in history.starts" :key="one.id">
                <StateMark :state="one.outcome === 'reached' ? 'ok' : 'ask'" class="mark" /> {{ one.message }}
                <span class="small muted">{{ one.of }}, {{ one.by }}, {{ moment(one.at) }}</span>
              </li>
            </ul>
          </template>
          <template v-if="history.mends.length">
            <h2>Mends</h2>
            <ul class="trail">
              <li v-for="one in history.mends" :key="one.id">
                {{ one.title }}<template v-if="one.undone">, taken back</template>
                <span class="small muted">{{ one.by }}, {{ moment(one.at) }}</span>
              </li>
            </ul>
          </template>
          <ComputerPhotos v-if="about" :computer="about" @changed="aboutAgain" />
          <template v-if="about?.trail.length">
            <h2>What was written down</h2>
            <ul class="trail">
              <li v-for="line in about.trail" :key="line.at + line.text">
                {{ line.text }} <span class="small muted">{{ line.by }}, {{ moment(line.at) }}</span>
              </li>
            </ul>
          </template>
        </section>
        <section aria-label="Drives and images">
          <h2>Drives</h2>
          <table v-if="history.drives.length" class="list">
            <tbody>
              <tr v-for="one in history.drives" :key="one.id">
                <td>
                  <RouterLink :to="`/drives/${one.id}`" class="mono">{{ one.serial }}</RouterLink>
                </td>
                <td>{{ one.name }}</td>
                <td class="right">{{ bytes(one.capacity) }}</td>
                <td class="right">
                  <RouterLink v-if="one.port" class="btn slim" :to="`/drives/${one.id}/take`"
                    >Take an image…</RouterLink
                  >
                  <span v-else class="small muted">not attached</span>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None is known.</p>
          <h2>Images</h2>
          <table v-if="history.images.length" class="list">
            <tbody>
              <tr v-for="one in history.images" :key="one.id">
                <td>{{ moment(one.taken_at) }}</td>
                <td>{{ one.shelf }}</td>
                <td>{{ one.state }}</td>
                <td class="right">{{ bytes(one.used_bytes) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None is known.</p>
        </section>
      </div>
      <ComputerDialog v-if="changing" v-model:visible="changing" :computer="about" @kept="refresh" />
      <MergeDialog v-if="merging && about" v-model:visible="merging" :computer="about" />
    </template>
    <p v-else-if="!error" class="empty" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  gap: 8px;
}
.known {
  margin: 10px 0 14px;
}
dl {
  margin: 0 0 8px;
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 3px 16px;
  font-size: 14px;
}
dt {
  color: var(--ink2);
}
dd {
  margin: 0;
  white-space: pre-line;
}
.readiness {
  --grid: minmax(0, 1fr) 300px 96px 116px;
  list-style: none;
  margin: 0 0 14px;
  padding: 0;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 9px;
}
.mark {
  display: inline-grid;
  vertical-align: -3px;
}
.trail {
  margin: 0;
  padding: 0;
  list-style: none;
  font-size: 14px;
  display: grid;
  gap: 6px;
}
</style>
