<script setup lang="ts">
import { computed, ref } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Proof, ReadinessPage, ReadinessRow } from '../api/types'
import AgeLine from '../drawing/AgeLine.vue'
import FilterChips from '../parts/common/FilterChips.vue'
import NightDialog from '../parts/readiness/NightDialog.vue'
import ReadinessLine from '../parts/readiness/ReadinessLine.vue'
import { vMay } from '../words/may'
import { usePaged } from './usePaged'

/** Which computers could be restored today, the worst first. */
const words = ref('')
const only = ref<'' | ReadinessRow['state']>('')
const night = ref(false)
const { page, rows, error, load, refresh, scrolled } = usePaged<'computers', ReadinessPage>(
  '/readiness',
  'computers',
  () => ({ q: words.value, state: only.value }),
  40,
)
const STATES = [
  ['not_possible', 'Not possible'],
  ['not_proved', 'Not proved'],
  ['ready', 'Ready'],
] as const
const kinds = computed(() => STATES.map(([key, name]) => ({ key, name, number: page.value?.counts[key] ?? 0 })))

/** Events come in swarms: the list is asked for once. */
let later: ReturnType<typeof setTimeout> | undefined
function soon() {
  clearTimeout(later)
  later = setTimeout(refresh, 400)
}

function take(proof: Proof) {
  if (rows.value) rows.value = rows.value.map((row) => (row.id === proof.computer_id ? { ...row, proof } : row))
}

async function ask(path: string) {
  error.value = ''
  await api
    .post<Proof>(path)
    .then(take)
    .catch((problem) => (error.value = errorText(problem)))
}

useLive({
  event: (event) => /^(proof|image|trial|computer|shelf_|write_done|drive)/.test(event.kind) && soon(),
  proof: take,
  back: refresh,
})
load()
</script>

<template>
  <div class="listed">
    <div class="head">
      <h1>Readiness</h1>
      <FilterChips v-model="only" label="Only computers that are" :of="kinds" />
      <input v-model="words" class="push" type="search" aria-label="Find a computer" placeholder="Name, place, owner" />
      <button type="button" class="btn" @click="night = true">At night…</button>
      <a v-may="'technician'" class="btn" href="/api/readiness.csv">CSV</a>
      <a v-may="'technician'" class="btn" href="/api/readiness.pdf">PDF</a>
    </div>
    <p v-if="page" class="said">{{ page.words }}.</p>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="rows scroll" @scroll.passive="scrolled">
      <template v-if="rows?.length">
        <div class="heads small muted" aria-hidden="true">
          <span>Computer</span><span>Could it be restored today?</span><AgeLine /><span>It would take</span><span />
        </div>
        <ul>
          <ReadinessLine
            v-for="row in rows"
            :key="row.id"
            :row="row"
            @prove="ask(`/computers/${row.id}/prove`)"
            @stop="ask(`/proofs/${row.proof!.id}/stop`)"
          />
        </ul>
      </template>
      <div v-else-if="rows && (words || only)" class="empty">
        <b>No computer fits</b><button type="button" class="btn" @click="((words = ''), (only = ''))">Show all</button>
      </div>
      <div v-else-if="rows" class="empty">
        <b>No computer is known yet</b>Whether one could be restored is judged by its images.
        <RouterLink class="btn go" to="/computers">To the computers</RouterLink>
      </div>
    </div>
    <p v-if="rows?.length" class="legend small muted">
      <i class="whole" /> whole <i class="open" /> not checked <i class="unread" /> not all read
      <i class="broken" /> damaged <i class="started" /> seen to start <i class="wished" /> as new as was wished
    </p>
    <NightDialog v-if="night" v-model:visible="night" />
  </div>
</template>

<style scoped>
.said {
  font-size: 17px;
  font-weight: 650;
}
.rows {
  --grid: 190px minmax(0, 1fr) 300px 96px 116px;
}
.heads {
  display: grid;
  grid-template-columns: var(--grid);
  gap: 16px;
  align-items: end;
  position: sticky;
  top: 0;
  z-index: 1;
  background: var(--sheet);
  border-bottom: 1px solid var(--rule);
  padding: 6px 12px;
  font-weight: 600;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
}
.legend {
  display: flex;
  gap: 6px;
  align-items: center;
}
.legend i {
  width: 8px;
  height: 14px;
  border-radius: 3px;
  border: 2px solid var(--spruce);
}
.legend i:not(:first-child) {
  margin-left: 10px;
}
.legend .whole {
  background: var(--spruce);
}
.legend .open {
  border-color: var(--ochre);
  border-style: dashed;
}
.legend .unread {
  border-width: 5px 4px;
  border-color: var(--ochre) transparent;
  border-left: 0;
  border-right: 0;
  border-radius: 0;
}
.legend .broken {
  border-color: var(--crimson);
  background: var(--crimson);
  border-radius: 0;
}
.legend .started {
  border: 0;
  height: 8px;
  background: var(--spruce);
  clip-path: polygon(50% 0, 100% 100%, 0 100%);
  border-radius: 0;
}
.legend .wished {
  width: 18px;
  border: 0;
  background: var(--spruce-l);
}
@media (max-width: 1150px) {
  .rows {
    --grid: 130px minmax(0, 1fr) 210px 74px 106px;
  }
}
</style>
