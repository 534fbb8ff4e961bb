<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import { asLong, joined } from '../api/pieces'
import type { DocketPage, DocketRow } from '../api/types'
import FilterChips from '../parts/common/FilterChips.vue'
import FirstSteps from '../parts/dockets/FirstSteps.vue'
import NewDocket from '../parts/dockets/NewDocket.vue'
import NightNews from '../parts/readiness/NightNews.vue'
import { ago, bytes, count } from '../words/format'
import { useKeys } from '../words/keys'
import { nearEnd } from '../words/rows'
import { vMay } from '../words/may'

const router = useRouter()
const PAGE = 60
const rows = ref<DocketRow[] | null>(null)
const total = ref(0)
const counts = ref<DocketPage['groups']>({ writing: 0, waiting: 0, closed: 0 })
const words = ref('')
const only = ref<'' | keyof DocketPage['groups']>('')
const error = ref('')
const chosen = ref(0)
const making = ref(false)
const groups = computed(() => {
  const all = rows.value ?? []
  return [
    { title: 'Being written', rows: all.filter((row) => isWriting(row)) },
    // Whoever waits longest stands first.
    { title: 'Waiting for somebody', rows: all.filter((row) => !row.closed_at && !isWriting(row)) },
    { title: 'Signed off', rows: all.filter((row) => row.closed_at) },
  ].filter((group) => group.rows.length)
})
const order = computed(() => groups.value.flatMap((group) => group.rows))

const NAMES = [
  ['writing', 'Being written'],
  ['waiting', 'Waiting'],
  ['closed', 'Signed off'],
] as const

const kinds = computed(() => NAMES.map(([key, name]) => ({ key, name, number: counts.value[key] })))

const isWriting = (row: DocketRow) => ['queued', 'running'].includes(row.write?.state ?? '')

function next(row: DocketRow): string {
  if (row.closed_at) return `Signed off ${ago(row.closed_at)}`
  const { write } = row
  if (write && isWriting(row))
    return `${bytes(write.progress.written ?? 0)} of ${bytes(write.progress.to_write ?? 0)} written`
  if (write?.state === 'failed' || write?.state === 'stopped') return 'The write has stopped'
  return row.stations.find((station) => station.name === row.current)?.lead ?? ''
}

let asking = false

function ask(from: number, count: number) {
  const asked = new URLSearchParams({ q: words.value, group: only.value, from: String(from), count: String(count) })
  return api.get<DocketPage>(`/dockets?${asked}`)
}

/** All that is shown already, or the page behind it. */
async function load(more = false) {
  asking = true
  const shown = rows.value ?? []
  try {
    const page = more ? await ask(shown.length, PAGE) : await asLong(Math.max(PAGE, shown.length), 'dockets', ask)
    rows.value = more ? joined(shown, page.dockets) : page.dockets
    total.value = page.total
    counts.value = page.groups
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    asking = false
  }
}

/** Events come in swarms: the list is asked for once. */
let later: ReturnType<typeof setTimeout> | undefined
function soon() {
  clearTimeout(later)
  later = setTimeout(() => load(), 250)
}

function anew() {
  rows.value = rows.value?.slice(0, PAGE) ?? null
  chosen.value = 0
  soon()
}

function scrolled(event: Event) {
  const list = event.target as HTMLElement
  if (!asking && rows.value && rows.value.length < total.value && nearEnd(list, 400)) load(true)
}

watch([words, only], anew)

function open(row: DocketRow | undefined) {
  if (row) router.push(`/dockets/${row.id}`)
}

async function move(by: number) {
  chosen.value = Math.max(0, Math.min(order.value.length - 1, chosen.value + by))
  await nextTick()
  document.querySelector<HTMLElement>('.row.on a')?.focus()
}

useLive({
  event: soon,
  back: () => load(),
  write: (write) => {
    const row = rows.value?.find((one) => one.write?.id === write.id)
    if (row?.write) Object.assign(row.write, { state: write.state, progress: write.progress })
  },
})
useKeys({ arrowdown: () => move(1), arrowup: () => move(-1), enter: () => open(order.value[chosen.value]) })
load()

function showAll() {
  words.value = ''
  only.value = ''
}
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Dockets</h1>
      <span v-if="rows" class="muted small">{{ count(counts.writing + counts.waiting) }} open</span>
      <FilterChips v-model="only" label="Only dockets that are" :of="kinds" />
      <input
        v-model="words"
        type="search"
        aria-label="Only dockets with these words"
        placeholder="Number, computer, place, cause, note"
      />
      <RouterLink class="btn push" to="/runs">Runs</RouterLink>
      <button v-may="'technician'" type="button" class="btn go" @click="making = true">Open a docket…</button>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <NightNews />
    <div class="rows scroll" @scroll.passive="scrolled">
      <section v-for="group in groups" :key="group.title" :aria-label="group.title">
        <h2>{{ group.title }}</h2>
        <div
          v-for="row in group.rows"
          :key="row.id"
          class="row"
          :class="{ on: order[chosen]?.id === row.id }"
          @click="open(row)"
        >
          <div>
            <span class="mono small muted">{{ row.number }}</span>
            <RouterLink :to="`/dockets/${row.id}`" :tabindex="order[chosen]?.id === row.id ? 0 : -1" @click.stop
              ><b>{{ row.computer }}</b></RouterLink
            >
            <span class="small muted place">{{ row.place }}</span>
          </div>
          <div>
            <span class="chip" :class="row.cause === 'drive_failed' ? 'no' : ''">{{ row.cause_name }}</span>
          </div>
          <ol aria-label="Stations">
            <li
              v-for="(station, index) in row.stations"
              :key="station.name"
              :class="[station.state, { here: station.name === row.current && !row.closed_at }]"
              :title="`${station.title}: ${station.lead}`"
            >
              <span aria-hidden="true">{{ station.state === 'sealed' ? '✓' : index + 1 }}</span>{{ station.title }}
              <span class="hidden-words">{{ station.state }}</span>
            </li>
          </ol>
          <div class="next small">
            {{ next(row) }}<br /><span v-if="row.waits_for" class="chip hot" :title="row.waits_note ?? undefined"
              >waits for {{ row.waits_for }}</span
            ><span v-else class="muted">opened {{ ago(row.opened_at) }}</span>
          </div>
        </div>
      </section>
      <div v-if="rows && !rows.length && (words || only)" class="empty">
        <b>No docket fits</b><button type="button" class="btn" @click="showAll">Show all</button>
      </div>
      <FirstSteps v-else-if="rows && !rows.length" @open="making = true" />
    </div>
    <NewDocket v-model:visible="making" @made="(id) => router.push(`/dockets/${id}`)" />
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 18px 20px 0;
  gap: 10px;
}
.head {
  display: flex;
  align-items: center;
  gap: 14px;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
h2 {
  font-size: 13px;
  font-weight: 700;
  color: var(--ink2);
  margin: 12px 0 6px;
}
.rows {
  flex: 1;
  min-height: 0;
  padding-bottom: 16px;
}
.row {
  display: grid;
  grid-template-columns: 260px 150px 1fr 210px;
  gap: 16px;
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 9px;
  padding: 12px 16px;
  margin-bottom: 8px;
  cursor: pointer;
}
/* Only what is looked at is laid out. */
.row {
  content-visibility: auto;
  contain-intrinsic-size: auto 76px;
}
.head input {
  width: 290px;
}
.row.on {
  border-color: var(--ember);
}
.row:hover {
  border-color: var(--ink2);
}
.row b {
  font-size: 17px;
}
.row a {
  text-decoration: none;
  margin-left: 8px;
}
.place {
  display: block;
}
ol {
  display: flex;
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  flex: 1;
  display: grid;
  justify-items: center;
  gap: 3px;
  font-size: 12px;
  color: var(--ink2);
  position: relative;
}
li + li::before {
  content: '';
  position: absolute;
  right: calc(50% + 13px);
  left: calc(-50% + 13px);
  top: 11px;
  border-top: 1.5px dashed var(--rule);
}
li > span:first-child {
  width: 24px;
  height: 24px;
  border-radius: 50%;
  display: grid;
  place-content: center;
  font: 700 12px/1 var(--mono);
  border: 1.5px solid var(--edge);
  background: var(--sheet);
  color: var(--ink2);
}
li.sealed > span:first-child {
  background: var(--spruce);
  border-color: var(--spruce);
  color: var(--on-spruce);
}
li.here {
  color: var(--ink);
  font-weight: 700;
}
li.here > span:first-child {
  border-color: var(--ember);
  border-width: 2.5px;
  color: var(--ember-ink);
}
.next {
  text-align: right;
}
@media (max-width: 1150px) {
  .row {
    grid-template-columns: 200px 120px 1fr 160px;
  }
}
@media (max-width: 700px) {
  .page {
    padding: 12px 12px 0;
  }
  .head {
    flex-wrap: wrap;
    gap: 8px;
  }
  .head input {
    flex-basis: 100%;
  }
  .row {
    grid-template-columns: minmax(0, 1fr) auto;
    gap: 6px 12px;
  }
  ol {
    display: none;
  }
  .next {
    grid-column: 1 / -1;
    text-align: left;
  }
  .next br {
    display: none;
  }
  .next .muted::before {
    content: '\00a0· ';
  }
}
</style>
