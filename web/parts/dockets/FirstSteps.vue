<script setup lang="ts">
import { shallowRef } from 'vue'
import { useRouter } from 'vue-router'
import { api } from '../../api/client'
import { useLive } from '../../api/live'
import type { ComputerPage, Shelf } from '../../api/types'
import { vMay } from '../../words/may'
import ComputerDialog from '../computers/ComputerDialog.vue'

/** The way from an Evrel in which nothing is known to its first docket. */
defineEmits<{ open: [] }>()
const router = useRouter()
const computers = shallowRef(0)
const shelves = shallowRef(0)
const adding = shallowRef(false)

async function load() {
  const [page, places] = await Promise.all([
    api.get<ComputerPage>('/computers?count=1').catch(() => null),
    api.get<Shelf[]>('/shelves').catch(() => []),
  ])
  computers.value = page?.total ?? 0
  shelves.value = places.length
}

useLive({ event: (event) => /^(computer|shelf_)/.test(event.kind) && load(), back: load })
load()
</script>

<template>
  <ol class="steps" aria-label="First steps">
    <li :class="{ done: computers }">
      <b>Register a computer</b>
      <p>Its name is enough. The rest is read off its drive, an image, or what it says of itself.</p>
      <span v-if="computers" class="chip ok">{{ computers }} known</span>
      <button v-may="'technician'" type="button" class="btn" :class="{ go: !computers }" @click="adding = true">
        Register {{ computers ? 'another' : 'one' }}…
      </button>
    </li>
    <li :class="{ done: shelves }">
      <b>Add a shelf</b>
      <p>A folder, a drive, or a place on the web that holds images. It is looked through by itself.</p>
      <span v-if="shelves" class="chip ok">{{ shelves }} added</span>
      <button
        v-may="'lead'"
        type="button"
        class="btn"
        :class="{ go: computers && !shelves }"
        @click="router.push('/images?shelves=1')"
      >
        Add {{ shelves ? 'another' : 'one' }}…
      </button>
    </li>
    <li>
      <b>Open a docket</b>
      <p>It carries one computer from “it is broken” to “it starts, and here is the proof”.</p>
      <button
        v-may="'technician'"
        type="button"
        class="btn"
        :class="{ go: computers && shelves }"
        @click="$emit('open')"
      >
        Open a docket…
      </button>
    </li>
  </ol>
  <ComputerDialog v-if="adding" v-model:visible="adding" @kept="load" @same="load" />
</template>

<style scoped>
.steps {
  list-style: none;
  counter-reset: step;
  margin: 60px auto;
  padding: 0;
  max-width: 960px;
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(240px, 1fr));
  gap: 16px;
}
li {
  counter-increment: step;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 20px;
  display: grid;
  gap: 10px;
  grid-template-rows: auto auto 1fr auto;
  justify-items: start;
}
li::before {
  content: counter(step);
  font-weight: 700;
  width: 28px;
  height: 28px;
  display: grid;
  place-items: center;
  border: 2px solid var(--ink2);
  border-radius: 50%;
}
li.done::before {
  content: '✓';
  background: var(--spruce);
  border-color: var(--spruce);
  color: var(--on-spruce);
}
li > .btn {
  grid-row: 5;
}
p {
  font-size: 14px;
  color: var(--ink2);
}
</style>
