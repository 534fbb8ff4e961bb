<script setup lang="ts">
import { computed, ref, shallowRef, watch } from 'vue'
import { api, errorText } from '../api/client'
import type { RecordRow, RecordsPage } from '../api/types'
import DateField from '../parts/common/DateField.vue'
import { bytes, localDay, moment, span } from '../words/format'
import { nearEnd, pieces } from '../words/rows'

/** All dockets that were signed off, with how it went. */
const CAUSES: Record<string, string> = {
  drive_failed: 'Drive failed',
  corrupt: 'System corrupt',
  infected: 'Infected',
  slow: 'Slow',
  replaced: 'Computer replaced',
  rehearsal: 'Rehearsal',
  set_up: 'Set up',
}
const page = shallowRef<RecordsPage | null>(null)
const error = ref('')
const words = ref('')
const cause = ref('')
const since = ref<Date | null>(null)
const until = ref<Date | null>(null)
const all = ref(false)
const filtered = computed(() => words.value || cause.value || since.value || until.value)

async function load(from = 0) {
  const query = new URLSearchParams({
    q: words.value,
    cause: cause.value,
    since: since.value ? localDay(since.value) : '',
    until: until.value ? localDay(until.value) : '',
    all: all.value ? 'yes' : '',
    from: String(from),
  })
  try {
    const next = await api.get<RecordsPage>(`/records?${query}`)
    page.value = from && page.value ? { ...next, rows: [...page.value.rows, ...next.rows] } : next
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

let timer = 0
watch([words, cause, since, until, all], () => {
  clearTimeout(timer)
  timer = window.setTimeout(() => load(), 200)
})

/** The next page, when its end comes into sight. */
let asking = false
async function scrolled(event: Event) {
  const list = event.target as HTMLElement
  if (asking || !page.value || page.value.rows.length >= page.value.total || !nearEnd(list, 300)) return
  asking = true
  await load(page.value.rows.length)
  asking = false
}

/** How the prediction was: inside, above or below the range. */
function predicted(row: RecordRow): string {
  if (row.seconds === null) return '–'
  if (row.expected_low === null || row.expected_high === null) return `${span(row.seconds)}, not predicted`
  const how = row.seconds < row.expected_low ? 'sooner than' : row.seconds > row.expected_high ? 'later than' : 'within'
  return `${span(row.seconds)}, ${how} ${span(row.expected_low)} to ${span(row.expected_high)}`
}

const whole = (row: RecordRow) => row.stations.reduce((sum, station) => sum + station.seconds, 0)
load()
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>Records</h1>
      <span v-if="page" class="muted small">{{ page.total }} {{ all ? 'dockets' : 'signed off' }}</span>
      <a class="btn slim push" href="/api/records.csv" download>All of it as CSV</a>
    </div>
    <div class="filters">
      <input
        v-model="words"
        type="search"
        aria-label="Search the records"
        placeholder="Computer, place, serial, shelf, technician"
      />
      <select v-model="cause" aria-label="Cause">
        <option value="">Every cause</option>
        <option v-for="(name, id) in CAUSES" :key="id" :value="id">{{ name }}</option>
      </select>
      <label class="small">from <DateField v-model="since" /></label
      ><label class="small">to <DateField v-model="until" /></label>
      <label class="small"><input v-model="all" type="checkbox" /> open ones too</label>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="rows scroll" @scroll.passive="scrolled">
      <table v-if="page?.rows.length" class="list long">
        <thead>
          <tr>
            <th>Docket</th>
            <th>Computer</th>
            <th>Signed off</th>
            <th>Proof</th>
            <th>Image</th>
            <th>Drive</th>
            <th>Write</th>
            <th>Stations</th>
          </tr>
        </thead>
        <tbody
          v-for="piece in pieces(page.rows)"
          :key="piece.from"
          v-memo="[piece.rows[0], piece.rows.length]"
          :style="{ '--rows': piece.rows.length }"
        >
          <tr v-for="row in piece.rows" :key="row.id">
            <td>
              <RouterLink :to="`/dockets/${row.id}`" class="mono">{{ row.docket }}</RouterLink>
              <div class="small muted">{{ row.cause }}</div>
            </td>
            <td>
              <RouterLink :to="`/computers/${row.computer_id}`"
                ><b>{{ row.computer }}</b></RouterLink
              >
              <div class="small muted">{{ row.place }}</div>
            </td>
            <td>
              {{ row.closed_at ? moment(row.closed_at) : 'open' }}
              <div class="small muted">{{ row.closed_by }}</div>
            </td>
            <td>
              {{ row.proof ?? '–' }}
              <div class="small muted">
                {{ row.lost ? `${row.lost} files saved first, ` : '' }}{{ row.mends ? `${row.mends} mended, ` : ''
                }}{{ row.open_points ? `${row.open_points} points left` : '' }}
              </div>
            </td>
            <td>
              {{ row.image_taken_at ? moment(row.image_taken_at) : '–' }}
              <div class="small muted">{{ row.image_shelf }}</div>
            </td>
            <td>
              <RouterLink v-if="row.drive_id" :to="`/drives/${row.drive_id}`" class="mono">{{
                row.drive_serial
              }}</RouterLink><template v-else>–</template>
              <div class="small muted">{{ row.drive_model }}</div>
            </td>
            <td>
              {{ row.written_bytes ? bytes(row.written_bytes) : '' }}
              <div class="small muted">{{ predicted(row) }}</div>
            </td>
            <td>
              <div class="spans" :title="row.stations.map((one) => `${one.name} ${span(one.seconds)}`).join(', ')">
                <i
                  v-for="one in row.stations"
                  :key="one.name"
                  :class="one.name"
                  :style="{ flexGrow: Math.max(one.seconds, whole(row) / 40) }"
                />
              </div>
              <div class="small muted">{{ span(whole(row)) }} in all</div>
            </td>
          </tr>
        </tbody>
      </table>
      <div v-else-if="page" class="empty">
        <b>{{ filtered ? 'Nothing like that was signed off' : 'Nothing was signed off yet' }}</b>{{
          filtered
            ? 'Take a word away, or another time.'
            : 'What is proved to start on its docket comes to stand here.'
        }}<RouterLink v-if="!filtered" class="btn" to="/dockets">To the dockets</RouterLink>
      </div>
      <p v-else-if="!error" class="empty" role="status">Loading…</p>
    </div>
  </div>
</template>

<style scoped>
label.small {
  display: flex;
  align-items: center;
  gap: 6px;
}
label :deep(.p-datepicker) {
  width: 150px;
}
.page {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  padding: 18px 20px 0;
  gap: 10px;
}
.head,
.filters {
  display: flex;
  align-items: center;
  gap: 12px;
  flex-wrap: wrap;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
.filters input[type='search'] {
  flex: 1;
  min-width: 220px;
  max-width: 380px;
}
.rows {
  flex: 1;
  min-height: 0;
  padding-bottom: 16px;
}
.long {
  --columns: 0.9fr 1.1fr 1.1fr 1.2fr 1.1fr 1.1fr 1.2fr 1.2fr;
  --row: 53px;
}
td {
  overflow-wrap: anywhere;
}
.spans {
  display: flex;
  gap: 1px;
  width: 130px;
  height: 10px;
  margin-top: 5px;
  border-radius: 5px;
  overflow: hidden;
}
.spans i {
  background: var(--r-data);
  min-width: 2px;
}
.spans .image {
  background: var(--r-recovery);
}
.spans .target {
  background: var(--r-swap);
}
.spans .layout {
  background: var(--r-startup);
}
.spans .write {
  background: var(--ember);
}
.spans .start {
  background: var(--spruce);
}
</style>
