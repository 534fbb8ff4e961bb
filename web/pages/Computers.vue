<script setup lang="ts">
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { useLive } from '../api/live'
import type { ComputerPage } from '../api/types'
import ComputerDialog from '../parts/computers/ComputerDialog.vue'
import ImportDialog from '../parts/computers/ImportDialog.vue'
import { ago, count } from '../words/format'
import { vMay } from '../words/may'
import { pieces, shows } from '../words/rows'
import { usePaged } from './usePaged'

/** The computers that are known here. */
const router = useRouter()
const words = ref('')
const aside = ref(false)
const adding = ref(false)
const importing = ref(false)
const { page, rows, error, load, refresh, scrolled } = usePaged<'computers', ComputerPage>(
  '/computers',
  'computers',
  () => ({ q: words.value, aside: aside.value ? 'yes' : '' }),
)
useLive({ event: (event) => /^(computer|opened|image|shelf_)/.test(event.kind) && refresh(), back: refresh })
load()
</script>

<template>
  <div class="listed">
    <div class="head">
      <h1>Computers</h1>
      <span v-if="rows" class="muted small">{{ count(page!.total) }}</span>
      <label class="small push"><input v-model="aside" type="checkbox" /> those put aside, too</label>
      <input
        v-model="words"
        type="search"
        aria-label="Find a computer"
        placeholder="Name, place, owner, model, serial"
      />
      <a v-may="'technician'" class="btn" href="/api/computers.csv" title="All of them as a table">CSV</a>
      <button v-may="'technician'" type="button" class="btn" @click="importing = true">From a table…</button>
      <button v-may="'technician'" type="button" class="btn go" @click="adding = true">Register one…</button>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="rows scroll" @scroll.passive="scrolled">
      <table v-if="rows?.length" class="list long">
        <thead>
          <tr>
            <th>Name</th>
            <th>Place</th>
            <th>Owner</th>
            <th>Model</th>
            <th>Starts by</th>
            <th>Newest image</th>
            <th>Open dockets</th>
          </tr>
        </thead>
        <tbody
          v-for="piece in pieces(rows)"
          :key="piece.from"
          v-memo="shows(piece, -1)"
          :style="{ '--rows': piece.rows.length }"
        >
          <tr v-for="one in piece.rows" :key="one.id" :class="{ aside: one.aside }">
            <td>
              <RouterLink :to="`/computers/${one.id}`"
                ><b>{{ one.name }}</b></RouterLink
              >
              <span v-if="one.aside" class="chip">put aside</span>
            </td>
            <td>{{ one.place }}</td>
            <td>{{ one.owner }}</td>
            <td>{{ one.model }}</td>
            <td>
              <template v-if="one.firmware">{{ one.firmware.toUpperCase() }}</template><span v-else class="chip ask"
                >not known</span
              >
            </td>
            <td>
              <template v-if="one.newest"
                >{{ ago(one.newest) }} <span class="muted small">of {{ one.images }}</span></template
              ><span v-else class="muted">none</span>
            </td>
            <td>{{ one.open || '' }}</td>
          </tr>
        </tbody>
      </table>
      <div v-else-if="rows && (words || aside)" class="empty">
        <b>No computer fits</b
        ><button type="button" class="btn" @click="((words = ''), (aside = false))">Show all</button>
      </div>
      <div v-else-if="rows" class="empty">
        <b>No computer is known yet</b>A name is enough to begin with; the rest is read off its drive, an image, or what
        it says of itself.
        <button v-may="'technician'" type="button" class="btn go" @click="adding = true">Register the first…</button>
        <button v-may="'technician'" type="button" class="btn" @click="importing = true">Take in a table…</button>
      </div>
    </div>
    <ImportDialog v-if="importing" v-model:visible="importing" />
    <ComputerDialog
      v-if="adding"
      v-model:visible="adding"
      @kept="(made) => router.push(`/computers/${made.id}`)"
      @same="(id) => router.push(`/computers/${id}`)"
    />
  </div>
</template>

<style scoped>
.head input[type='search'] {
  width: 300px;
}
.rows {
  --columns: minmax(0, 1.2fr) minmax(0, 1.6fr) minmax(0, 1fr) minmax(0, 1.2fr) 110px 140px 110px;
  --row: 40px;
}
tr.aside td {
  color: var(--ink2);
}
</style>
