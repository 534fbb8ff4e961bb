<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Catalogue, FileGroup, Image, ImageRow, ImageState, Shelf, Unsearched } from '../api/types'
import ImageFacts from '../parts/catalogue/ImageFacts.vue'
import Shelves from '../parts/catalogue/Shelves.vue'
import { ago, bytes, exact, moment } from '../words/format'
import { imageStates, stateChip } from '../words/images'
import { useKeys } from '../words/keys'

const route = useRoute()
const router = useRouter()
const rows = ref<ImageRow[]>([])
const total = ref(0)
const states = ref<Catalogue['states']>({})
const shelves = ref<Shelf[] | null>(null)
const files = ref<FileGroup[] | null>(null)
const unsearched = ref<Unsearched | null>(null)
const image = ref<Image | null>(null)
const error = ref('')
const loaded = ref(false)
const text = ref(String(route.query.file ?? ''))
const within = ref<'images' | 'files'>(route.query.file ? 'files' : 'images')
const state = ref<ImageState | ''>('')
const shelf = ref<number | ''>('')
const chosenId = ref<number | null>(Number(route.query.show) || null)
const all = computed(() => Object.values(states.value).reduce((sum, count) => sum + count, 0))
let waiting: ReturnType<typeof setTimeout> | undefined

async function attempt(request: () => Promise<void>) {
  try {
    await request()
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

const query = (from: number) =>
  new URLSearchParams({
    q: within.value === 'images' ? text.value : '',
    state: state.value,
    shelf: String(shelf.value),
    from: String(from),
  })

async function load() {
  await attempt(async () => {
    const [page, places] = await Promise.all([api.get<Catalogue>(`/images?${query(0)}`), api.get<Shelf[]>('/shelves')])
    rows.value = page.images
    total.value = page.total
    states.value = page.states
    shelves.value = places
    loaded.value = true
    if (!rows.value.some((row) => row.id === chosenId.value) && !route.query.show)
      chosenId.value = rows.value[0]?.id ?? null
    if (within.value !== 'files') return
    unsearched.value ??= await api.get<Unsearched>('/files/unsearched')
    files.value =
      text.value.trim().length > 1 ? await api.get<FileGroup[]>(`/files?q=${encodeURIComponent(text.value)}`) : null
  })
}

async function more() {
  await attempt(async () => {
    rows.value = [...rows.value, ...(await api.get<Catalogue>(`/images?${query(rows.value.length)}`)).images]
  })
}

/** The list is long: only as much of it as is looked at is asked for. */
function scrolled(event: Event) {
  const list = event.target as HTMLElement
  if (rows.value.length < total.value && list.scrollTop + list.clientHeight > list.scrollHeight - 200 && !waiting) {
    waiting = setTimeout(async () => {
      await more()
      waiting = undefined
    }, 60)
  }
}

function move(by: number) {
  const at = rows.value.findIndex((row) => row.id === chosenId.value)
  chosenId.value = rows.value[Math.max(0, Math.min(rows.value.length - 1, at + by))]?.id ?? null
  document.querySelector('tr.on')?.scrollIntoView({ block: 'nearest' })
}

async function show() {
  if (!chosenId.value) return (image.value = null)
  await attempt(async () => {
    image.value = await api.get<Image>(`/images/${chosenId.value}`)
  })
}

watch([state, shelf, within], load)
watch(text, () => {
  clearTimeout(waiting)
  waiting = setTimeout(() => {
    waiting = undefined
    load()
  }, 150)
})
watch(chosenId, show, { immediate: true })
useLive({
  images: ({ checking }) => {
    const mine = checking.find((one) => one.id === image.value?.id)
    if (mine && image.value) Object.assign(image.value, { state: 'checking', progress: mine.progress })
    else if (image.value?.state === 'checking') {
      // It has ended.
      load()
      show()
    }
  },
  shelves: ({ looking }) => {
    for (const { id, ...look } of looking) {
      const place = shelves.value?.find((one) => one.id === id)
      if (place) Object.assign(place.look, look)
    }
    if (
      shelves.value?.some(
        (place) => ['queued', 'running'].includes(place.look.state) && !looking.some((one) => one.id === place.id),
      )
    )
      load()
  },
  event: (event) => {
    if (/^(image_checked|shelf_|trial_done)/.test(event.kind)) {
      load()
      show()
    }
  },
  trial: (trial) => {
    if (image.value?.trial?.id === trial.id) image.value.trial = trial
  },
  bench: load,
  back: () => {
    load()
    show()
  },
})
useKeys({
  arrowdown: () => move(1),
  arrowup: () => move(-1),
  l: () => image.value && router.push(`/images/${image.value.id}/inside`),
})
load()

function showAll() {
  text.value = ''
  state.value = ''
  shelf.value = ''
}
</script>

<template>
  <div class="page">
    <div class="left">
      <div class="head">
        <h1>Images</h1>
        <span v-if="loaded" class="muted small"
          >{{
            total === all ? all.toLocaleString('en') : `${total.toLocaleString('en')} of ${all.toLocaleString('en')}`
          }}
          on {{ shelves?.length }} {{ shelves?.length === 1 ? 'shelf' : 'shelves' }}</span
        >
        <span class="push find">
          <input
            v-model="text"
            type="search"
            :placeholder="within === 'images' ? 'Computer, note, label, date…' : 'Name of a file, as tides-2031.db'"
            :aria-label="within === 'images' ? 'Only images with these words' : 'Name of a file inside images'"
          />
          <select v-model="within" aria-label="Where to look">
            <option value="images">in what is known</option>
            <option value="files">in file names inside</option>
          </select>
        </span>
      </div>
      <div class="filters" role="group" aria-label="Only images in this state">
        <button
          type="button"
          class="chip"
          :class="{ on: state === '' }"
          :aria-pressed="state === ''"
          @click="state = ''"
        >
          All {{ all }}
        </button>
        <button
          v-for="(count, key) in states"
          :key="key"
          type="button"
          class="chip"
          :class="[imageStates[key][0], { on: state === key }]"
          :aria-pressed="state === key"
          @click="state = state === key ? '' : key"
        >
          {{ imageStates[key][1] }} {{ count }}
        </button>
        <select v-model="shelf" class="push" aria-label="Only images on this shelf">
          <option value="">On every shelf</option>
          <option v-for="one in shelves" :key="one.id" :value="one.id">{{ one.name }}</option>
        </select>
      </div>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <div v-if="within === 'files' && text.trim().length > 1" class="scroll rows" tabindex="-1">
        <div v-for="group in files" :key="`${group.part}${group.path}`" class="group">
          <b class="mono">{{ group.path }}</b>
          <table class="list">
            <tbody>
              <tr
                v-for="one in group.images"
                :key="one.image_id"
                :class="{ on: one.image_id === chosenId }"
                @click="chosenId = one.image_id"
              >
                <td>{{ one.computer ?? 'Unknown' }}, {{ moment(one.taken_at) }}</td>
                <td>
                  <span class="chip" :class="imageStates[one.state][0]">{{ imageStates[one.state][1] }}</span>
                </td>
                <td class="right" :title="exact(one.size)">{{ bytes(one.size) }}</td>
                <td>{{ one.modified_at ? `changed ${moment(one.modified_at)}` : '' }}</td>
                <td>
                  <RouterLink
                    :to="`/images/${one.image_id}/inside?part=${group.part}&file=${encodeURIComponent(group.path)}`"
                    >Look at it</RouterLink
                  >
                </td>
              </tr>
            </tbody>
          </table>
        </div>
        <div v-if="files && !files.length" class="empty">
          <b>No checked image holds a file called “{{ text }}”</b>
        </div>
        <div v-if="unsearched?.unchecked || unsearched?.parts.length" class="gaps small muted">
          <b>Not searched</b>
          <p v-if="unsearched.unchecked">
            {{ unsearched.unchecked === 1 ? 'One image' : `${unsearched.unchecked} images` }} never checked: names are
            noted while an image is checked.
          </p>
          <p v-for="one in unsearched.parts" :key="`${one.image_id}-${one.part}`">
            {{ one.computer ?? 'Unknown' }}, {{ moment(one.taken_at) }}, part {{ one.part }}:
            {{ one.kind ? `a ${one.kind} volume, which is not read here` : one.problem }}.
          </p>
        </div>
      </div>
      <div v-else class="scroll rows" tabindex="-1" @scroll.passive="scrolled">
        <table v-if="rows.length" class="list">
          <thead>
            <tr>
              <th>Taken</th>
              <th>Computer</th>
              <th>State</th>
              <th class="right">Used</th>
              <th>Format</th>
              <th>Shelf</th>
              <th>Path</th>
            </tr>
          </thead>
          <tbody>
            <tr
              v-for="one in rows"
              :key="one.id"
              :class="{ on: one.id === chosenId }"
              tabindex="0"
              @click="chosenId = one.id"
              @focus="chosenId = one.id"
            >
              <td class="nowrap">
                <b>{{ moment(one.taken_at) }}</b>
              </td>
              <td>{{ one.computer ?? 'Unknown' }}</td>
              <td>
                <span class="chip" :class="stateChip(one)[0]">{{ stateChip(one)[1] }}</span>
              </td>
              <td class="right" :title="exact(one.used_bytes)">{{ one.used_bytes ? bytes(one.used_bytes) : '–' }}</td>
              <td>{{ one.format }}</td>
              <td>{{ one.shelf }}<small v-if="!one.reachable">away</small></td>
              <td class="path" :title="one.place">
                <bdi>{{ one.place }}</bdi>
              </td>
            </tr>
          </tbody>
        </table>
        <div v-else-if="all && loaded" class="empty">
          <b>No image fits</b><button type="button" class="btn" @click="showAll">Show all</button>
        </div>
        <div v-else-if="loaded" class="empty">
          <b>No image yet</b>Add a shelf below: a folder, an attached drive, or a place on the web. It is looked through
          at once.
        </div>
        <p v-else-if="!error" class="empty" role="status">Reading…</p>
      </div>
      <Shelves v-if="shelves" :shelves="shelves" :focus="route.query.shelves !== undefined" @changed="load" />
    </div>
    <aside v-if="image" class="scroll" aria-label="The chosen image" tabindex="0">
      <ImageFacts :key="image.id" :image="image" @changed="image = $event" />
      <p v-if="image.checked_at" class="small muted">Checked {{ ago(image.checked_at) }}</p>
    </aside>
    <aside v-else class="muted small">Choose an image to see what is in it.</aside>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: minmax(0, 1fr) 330px;
  grid-template-rows: minmax(0, 1fr);
}
.left {
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 16px 20px 14px;
  min-height: 0;
  background: var(--sheet);
  border-right: 1px solid var(--rule);
}
.head {
  display: flex;
  align-items: baseline;
  gap: 14px;
}
h1 {
  font-size: 21px;
  font-weight: 750;
}
.find {
  display: flex;
}
.find input,
.find select,
.filters select {
  border: 1px solid var(--edge);
  padding: 5px 9px;
  background: var(--field);
  color: var(--ink);
  font-size: 14px;
}
.find input {
  border-radius: 6px 0 0 6px;
  border-right: 0;
  width: 236px;
}
.find select {
  border-radius: 0 6px 6px 0;
}
.filters {
  display: flex;
  gap: 6px;
  align-items: center;
}
.filters select {
  border-radius: 6px;
  padding: 3px 8px;
}
.filters .chip {
  border: 1.5px solid transparent;
  cursor: pointer;
}
.filters .chip.on {
  border-color: currentcolor;
}
.rows {
  flex: 1;
  min-height: 120px;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
td small {
  display: block;
  color: var(--ink2);
}
.nowrap {
  white-space: nowrap;
}
.path {
  max-width: 170px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
  direction: rtl;
  text-align: left;
  color: var(--ink2);
}
.group {
  margin-bottom: 14px;
}
.group b {
  overflow-wrap: anywhere;
}
.gaps {
  border-top: 1px solid var(--rule);
  padding: 8px 0;
}
.gaps p {
  margin: 2px 0;
}
aside {
  padding: 16px 18px;
  display: flex;
  flex-direction: column;
  gap: 12px;
  min-height: 0;
}
</style>
