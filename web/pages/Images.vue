<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRoute } from 'vue-router'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Catalogue } from '../api/types'
import Core from '../drawing/Core.vue'
import { ago, bytes, count, exact, moment, otherZone } from '../words/format'
import { imageStates as states } from '../words/images'

const route = useRoute()
const catalogue = ref<Catalogue | null>(null)
const problems = ref<string[]>([])
const error = ref('')
const filter = ref('')
const chosenId = ref(Number(route.query.show) || null)
const shown = computed(() => {
  const words = filter.value.toLowerCase().split(/\s+/).filter(Boolean)
  return (catalogue.value?.images ?? []).filter((image) => words.every((word) => `${image.computer} ${image.shelf} ${image.folder} ${image.note} ${moment(image.taken_at)}`.toLowerCase().includes(word)))
})
const chosen = computed(() => catalogue.value?.images.find((image) => image.id === chosenId.value) ?? shown.value[0] ?? null)

async function load() {
  try {
    catalogue.value = await api.get<Catalogue>('/images')
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function ask(path: string) {
  error.value = ''
  try {
    const answer = await api.post<{ problems?: string[] }>(path)
    problems.value = answer.problems ?? []
    await load()
  } catch (problem) {
    error.value = errorText(problem)
  }
}

useLive({ images: load, bench: load, back: load, event: (event) => { if (event.kind === 'image_checked') load() } })
load()
</script>

<template>
  <div class="page">
    <div class="left">
      <div class="head"><h1>Images</h1><span v-if="catalogue" class="muted small">{{ catalogue.images.length }} on {{ catalogue.shelves.length }} {{ catalogue.shelves.length === 1 ? 'shelf' : 'shelves' }}</span>
        <input v-model="filter" class="push filter" type="search" placeholder="Only those with…" aria-label="Only images with these words"></div>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <p v-for="problem in problems" :key="problem" class="message ask">{{ problem }}</p>
      <div class="scroll rows">
        <table v-if="shown.length" class="list">
          <thead><tr><th>Taken</th><th>Computer</th><th>State</th><th class="right">Used</th><th>Shelf</th><th>Note</th></tr></thead>
          <tbody>
            <tr v-for="image in shown" :key="image.id" :class="{ on: image.id === chosen?.id }" tabindex="0" @click="chosenId = image.id" @focus="chosenId = image.id">
              <td><b>{{ moment(image.taken_at) }}</b><small v-if="otherZone(image.taken_as_written)">{{ otherZone(image.taken_as_written) }}</small></td><td>{{ image.computer ?? 'Unknown' }}</td>
              <td><span class="chip" :class="states[image.state][0]">{{ states[image.state][1] }}</span></td><td class="right">{{ bytes(image.used_bytes) }}</td>
              <td>{{ image.shelf }}<small v-if="!image.reachable">not attached</small></td><td>{{ image.note }}</td>
            </tr>
          </tbody>
        </table>
        <div v-else-if="catalogue?.images.length" class="empty"><b>No image has “{{ filter }}” in it</b><button type="button" class="btn" @click="filter = ''">Show all</button></div>
        <div v-else-if="catalogue" class="empty"><b>No image yet</b>Attach a shelf and look through it.</div>
      </div>
      <h2>Shelves</h2>
      <div class="shelves">
        <div v-for="shelf in catalogue?.shelves" :key="shelf.id" class="shelf">
          <span class="chip" :class="shelf.reachable ? 'ok' : 'no'">{{ shelf.reachable ? 'Attached' : 'Away' }}</span><b>{{ shelf.name }}</b>
          <span class="small muted">{{ shelf.kind === 'drive' ? (shelf.port ? `drive on port ${shelf.port}` : `drive, last on port ${shelf.last_port}`) : 'folder' }} · {{ shelf.images }} images{{ shelf.looked_at ? ` · looked through ${ago(shelf.looked_at)}` : '' }}</span>
          <button type="button" class="btn slim push" :disabled="!shelf.reachable" @click="ask(`/shelves/${shelf.id}/look`)">Look through again</button>
        </div>
      </div>
    </div>
    <aside v-if="chosen" aria-label="The chosen image">
      <h2>{{ chosen.computer }}, {{ moment(chosen.taken_at) }}</h2>
      <div class="drawn"><Core :parts="chosen.parts" :size="chosen.size_bytes" :width="56" :height="230" />
        <ul><li v-for="part in chosen.parts" :key="part.number ?? 0"><b>{{ part.name }}</b><span class="small muted">{{ bytes(part.size_bytes) }} · {{ part.volume.kind }}<br>{{ bytes(part.volume.used_bytes) }} used</span></li></ul></div>
      <dl>
        <dt>Disk</dt><dd :title="exact(chosen.size_bytes)">{{ bytes(chosen.size_bytes) }}, {{ chosen.drive.maker }} {{ chosen.drive.model }}</dd>
        <dt>Folder</dt><dd class="mono">{{ chosen.folder }}</dd>
        <dt>Clusters</dt><dd>{{ count(chosen.clusters) }}, each with a digest</dd>
        <dt>Checked</dt><dd>{{ chosen.checked_at ? `${ago(chosen.checked_at)}: ${chosen.state}` : 'not yet' }}</dd>
      </dl>
      <p v-if="chosen.damage && chosen.state === 'damaged'" class="message">{{ chosen.damage.error ?? `${chosen.damage.damaged} clusters differ: ${chosen.damage.places.slice(0, 3).map((place) => `cluster ${place.cluster} in part ${place.part ?? '–'}`).join(', ')}` }}</p>
      <button type="button" class="btn" :disabled="!chosen.reachable || chosen.state === 'checking'" @click="ask(`/images/${chosen.id}/check`)">{{ chosen.state === 'checking' ? 'Being checked…' : 'Check it' }}</button>
    </aside>
  </div>
</template>

<style scoped>
.page { flex: 1; min-height: 0; display: grid; grid-template-columns: minmax(0, 1fr) 330px; grid-template-rows: minmax(0, 1fr); }
.left { display: flex; flex-direction: column; gap: 10px; padding: 18px 20px; min-height: 0; background: var(--sheet); border-right: 1px solid var(--rule); }
.head { display: flex; align-items: baseline; gap: 14px; }
h1 { font-size: 21px; font-weight: 750; }
h2 { font-size: 15px; }
.filter { border: 1px solid var(--edge); border-radius: 6px; padding: 5px 10px; background: var(--field); color: var(--ink); width: 210px; }
.rows { flex: 1; min-height: 120px; }
tr { cursor: pointer; }
tr.on td { background: var(--ember-l); }
td small { display: block; color: var(--ink2); }
.shelves { display: grid; gap: 6px; }
.shelf { display: flex; gap: 10px; align-items: center; border: 1px solid var(--rule); border-radius: 8px; padding: 7px 10px; }
aside { padding: 18px; display: flex; flex-direction: column; gap: 14px; min-height: 0; overflow-y: auto; }
.drawn { display: grid; grid-template-columns: 56px 1fr; gap: 16px; }
ul { list-style: none; margin: 0; padding: 0; display: grid; align-content: space-around; }
li b { display: block; }
dl { display: grid; grid-template-columns: 74px 1fr; gap: 6px 10px; margin: 0; font-size: 14px; }
dt { color: var(--ink2); }
dd { margin: 0; overflow-wrap: anywhere; }
</style>
