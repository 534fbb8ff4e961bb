<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import type { Entry, FilePreview, Image, Listing } from '../api/types'
import Core from '../drawing/Core.vue'
import { bytes, count, dated, exact, moment } from '../words/format'
import { partName, stateChip } from '../words/images'
import { useKeys } from '../words/keys'

const props = defineProps<{ id: string }>()
const route = useRoute()
const router = useRouter()
const image = ref<Image | null>(null)
const part = ref<number | null>(Number(route.query.part) || null)
const listing = ref<Listing | null>(null)
const found = ref<Entry[] | null>(null)
const preview = ref<FilePreview | null>(null)
const picked = ref(new Set<string>())
const text = ref('')
const error = ref('')
const busy = ref(false)
const at = ref(-1)
const BROWSABLE = /^(ext|fat|ntfs)/
const chosenPart = computed(() => image.value?.parts.find((one) => one.number === part.value) ?? null)
const rows = computed(() => found.value ?? listing.value?.entries ?? [])
const crumbs = computed(() => {
  const names = (listing.value?.path ?? '/').split('/').filter(Boolean)
  return names.map((name, index) => ({ name, path: `/${names.slice(0, index + 1).join('/')}` }))
})
const base = computed(() => `/images/${props.id}/parts/${part.value}`)
const taken = computed(() => [...picked.value])
const takeLink = (kind: 'zip' | 'tar') =>
  `/api${base.value}/take?kind=${kind}&${taken.value.map((path) => `path[]=${encodeURIComponent(path)}`).join('&')}`

async function attempt(request: () => Promise<void>) {
  busy.value = true
  try {
    await request()
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}

async function load() {
  await attempt(async () => {
    image.value = await api.get<Image>(`/images/${props.id}`)
    document.title = `Inside ${image.value.computer ?? 'an image'} · Evrel`
    const parts = image.value.parts.filter((one) => BROWSABLE.test(one.volume.kind))
    // The system is what people look for first.
    part.value ??=
      (
        parts.find((one) => one.role === 'system') ??
        parts.sort((one, two) => two.volume.used_bytes - one.volume.used_bytes)[0]
      )?.number ?? null
  })
  if (error.value || part.value === null) return
  const file = typeof route.query.file === 'string' ? route.query.file : null
  await open(file ? file.slice(0, file.lastIndexOf('/')) || '/' : '/')
  const entry = listing.value?.entries.find((one) => one.path.toLowerCase() === file?.toLowerCase())
  if (entry) await look(entry)
}

async function open(path: string) {
  await attempt(async () => {
    listing.value = await api.get<Listing>(`${base.value}/files?path=${encodeURIComponent(path)}`)
    found.value = null
    text.value = ''
    at.value = -1
  })
}

async function more() {
  if (!listing.value || found.value || busy.value) return
  await attempt(async () => {
    const next = await api.get<Listing>(
      `${base.value}/files?path=${encodeURIComponent(listing.value!.path)}&from=${listing.value!.entries.length}`,
    )
    listing.value!.entries.push(...next.entries)
  })
}

function scrolled(event: Event) {
  const list = event.target as HTMLElement
  if (
    listing.value &&
    listing.value.entries.length < listing.value.total &&
    list.scrollTop + list.clientHeight > list.scrollHeight - 300
  )
    more()
}

async function look(entry: Entry) {
  at.value = rows.value.indexOf(entry)
  if (entry.type === 'directory') return open(entry.path)
  if (entry.type !== 'file' || entry.note) return (preview.value = null)
  await attempt(async () => {
    preview.value = await api.get<FilePreview>(`${base.value}/preview?path=${encodeURIComponent(entry.path)}`)
  })
}

async function find() {
  if (text.value.trim().length < 2) return (found.value = null)
  await attempt(async () => {
    found.value = await api.get<Entry[]>(`${base.value}/find?q=${encodeURIComponent(text.value.trim())}`)
    at.value = -1
  })
}

function pick(path: string) {
  if (!picked.value.delete(path)) picked.value.add(path)
  picked.value = new Set(picked.value)
}

function choose(number: number | null) {
  part.value = number
  picked.value = new Set()
  preview.value = null
  open('/')
}

function up() {
  if (found.value) return (found.value = null)
  const path = listing.value?.path ?? '/'
  if (path === '/') return back()
  open(path.slice(0, path.lastIndexOf('/')) || '/')
}

function back() {
  router.push(route.query.docket ? `/dockets/${route.query.docket}/image` : `/images?show=${props.id}`)
}

async function move(by: number) {
  at.value = Math.max(0, Math.min(rows.value.length - 1, at.value + by))
  await nextTick()
  document.querySelector('tr.on')?.scrollIntoView({ block: 'nearest' })
}

const ICONS = { directory: 'pi pi-folder', file: 'pi pi-file', symlink: 'pi pi-link', other: 'pi pi-circle' }
watch(() => props.id, load, { immediate: true })
useKeys({
  arrowdown: () => move(1),
  arrowup: () => move(-1),
  enter: () => rows.value[at.value] && look(rows.value[at.value]!),
  ' ': () => rows.value[at.value] && pick(rows.value[at.value]!.path),
  backspace: up,
  escape: back,
})

function backToFolders() {
  found.value = null
  text.value = ''
}
</script>

<template>
  <div v-if="image" class="page">
    <nav class="parts scroll" aria-label="Parts" tabindex="0">
      <h2>{{ image.computer ?? 'Unknown computer' }}</h2>
      <p class="small muted">{{ moment(image.taken_at) }}</p>
      <p>
        <span class="chip" :class="stateChip(image)[0]">{{ stateChip(image)[1] }}</span>
      </p>
      <div class="drawn">
        <Core
          :parts="image.parts"
          :size="image.size_bytes"
          :width="34"
          :height="Math.max(160, image.parts.length * 66)"
        />
        <ul>
          <li v-for="one in image.parts" :key="one.number ?? 0">
            <button
              type="button"
              :class="{ on: one.number === part }"
              :disabled="!BROWSABLE.test(one.volume.kind)"
              @click="choose(one.number)"
            >
              <b>{{ partName(one) }}</b><span class="small">{{ bytes(one.size_bytes) }} · {{ one.volume.kind }}</span>
            </button>
          </li>
        </ul>
      </div>
      <RouterLink v-if="image.twins.length" class="btn slim" :to="`/images/${image.id}/compare/${image.twins[0]!.id}`"
        >Lay beside another…</RouterLink
      >
    </nav>
    <section class="files" aria-label="Files">
      <div class="head">
        <h1 class="crumbs">
          <button type="button" @click="open('/')">{{ chosenPart ? partName(chosenPart) : 'No part' }}</button><template
            v-for="crumb in crumbs"
            :key="crumb.path"
          >
            / <button type="button" @click="open(crumb.path)">{{ crumb.name }}</button></template
          >
        </h1>
        <form class="push" role="search" @submit.prevent="find">
          <input
            v-model="text"
            type="search"
            placeholder="Find by name in this part"
            aria-label="Find by name in this part"
            @input="text === '' && (found = null)"
          />
        </form>
      </div>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <div class="scroll list-box" tabindex="-1" @scroll.passive="scrolled">
        <table v-if="rows.length" class="list">
          <thead>
            <tr>
              <th><span class="hidden-words">Take out</span></th>
              <th>Name</th>
              <th class="right">Size</th>
              <th>Changed</th>
            </tr>
          </thead>
          <tbody>
            <tr v-for="(entry, index) in rows" :key="entry.path" :class="{ on: index === at }" @click="look(entry)">
              <td class="box" @click.stop>
                <input
                  type="checkbox"
                  :checked="picked.has(entry.path)"
                  :disabled="entry.type === 'symlink' || entry.type === 'other' || !!entry.note"
                  :aria-label="`Take out ${entry.name}`"
                  @change="pick(entry.path)"
                />
              </td>
              <td>
                <div class="name">
                  <i :class="ICONS[entry.type]" aria-hidden="true" /><span
                    ><bdi>{{ entry.name }}</bdi
                    ><small v-if="found">{{ entry.path }}</small
                    ><small v-if="entry.note" class="not-here">{{ entry.note }}</small></span
                  >
                </div>
              </td>
              <td class="right nowrap" :title="exact(entry.size)">
                {{ entry.type === 'file' ? bytes(entry.size) : '' }}
              </td>
              <td class="nowrap">{{ entry.modified_at ? dated(entry.modified_at) : '' }}</td>
            </tr>
          </tbody>
        </table>
        <div v-else-if="found" class="empty">
          <b>Nothing in this part is called “{{ text }}”</b
          ><button type="button" class="btn" @click="backToFolders">Back to the folder</button>
        </div>
        <div v-else-if="listing" class="empty"><b>This folder is empty</b></div>
        <div v-else-if="part === null && !busy" class="empty">
          <b>No part of it can be looked into</b>Files are shown of ext, FAT and NTFS volumes.
        </div>
        <p v-else-if="busy" class="empty" role="status">Reading…</p>
      </div>
      <footer>
        <button type="button" class="btn" @click="back">Back</button>
        <span class="small muted">{{
          found ? `${found.length} found` : listing ? `${count(listing.total)} in this folder` : ''
        }}</span>
        <span class="push small">{{ picked.size ? `${picked.size} chosen` : 'Tick what you want to take out' }}</span>
        <a
          class="btn"
          :class="{ off: !picked.size }"
          :aria-disabled="!picked.size"
          :href="picked.size ? takeLink('zip') : undefined"
          download
          >Take out as .zip</a
        >
        <a
          class="btn"
          :class="{ off: !picked.size }"
          :aria-disabled="!picked.size"
          :href="picked.size ? takeLink('tar') : undefined"
          download
          >as .tar</a
        >
      </footer>
    </section>
    <aside class="scroll" aria-label="Preview" tabindex="0">
      <template v-if="preview">
        <h2>
          <bdi>{{ preview.path.split('/').pop() }}</bdi>
        </h2>
        <p class="small muted">
          {{ bytes(preview.size)
          }}<template v-if="preview.modified_at">, changed {{ dated(preview.modified_at) }}</template>
        </p>
        <img
          v-if="preview.kind === 'picture'"
          :src="`/api${base}/picture?path=${encodeURIComponent(preview.path)}`"
          :alt="`Picture in ${preview.path}`"
        />
        <p v-else-if="preview.kind === 'empty'" class="muted">The file is empty.</p>
        <pre v-else :class="preview.kind" tabindex="0">{{ preview.text }}</pre>
        <p v-if="preview.cut" class="small muted">Only the beginning is shown.</p>
      </template>
      <p v-else-if="rows[at]?.note" class="small" role="status">
        <b
          ><bdi>{{ rows[at]!.name }}</bdi></b
        >
        is {{ rows[at]!.note }}. It cannot be looked at or taken out here.
      </p>
      <p v-else class="small muted">
        Choose a file to look at its beginning. Nothing of it is run, and nothing is written.
      </p>
    </aside>
  </div>
  <div v-else-if="error" class="empty">
    <b>{{ error }}</b><RouterLink class="btn" to="/images">To the images</RouterLink>
  </div>
  <p v-else class="empty" role="status">Reading…</p>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 216px minmax(0, 1fr) 356px;
  grid-template-rows: minmax(0, 1fr);
}
.parts {
  padding: 16px 14px 16px 20px;
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
h1 {
  font-size: 17px;
  font-weight: 700;
}
h2 {
  font-size: 15px;
  overflow-wrap: anywhere;
}
.drawn {
  display: grid;
  grid-template-columns: 34px 1fr;
  gap: 8px;
  margin: 6px 0;
}
.drawn ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  align-content: space-around;
}
.drawn button {
  width: 100%;
  text-align: left;
  border: 1px solid transparent;
  border-radius: 7px;
  background: none;
  padding: 5px 8px;
  cursor: pointer;
  color: var(--ink);
}
.drawn button:disabled {
  color: var(--ink2);
  cursor: not-allowed;
}
.drawn button.on {
  background: var(--sheet);
  border-color: var(--ember);
}
.drawn b,
.drawn span {
  display: block;
  overflow-wrap: anywhere;
}
.files {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-width: 0 1px;
  display: flex;
  flex-direction: column;
  min-height: 0;
  padding: 14px 20px 0;
  gap: 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 14px;
}
.crumbs {
  overflow-wrap: anywhere;
}
.crumbs button {
  border: 0;
  background: none;
  padding: 0;
  font: inherit;
  color: inherit;
  cursor: pointer;
  text-decoration: underline;
  text-decoration-color: var(--rule);
  text-underline-offset: 3px;
}
.head input {
  border: 1px solid var(--edge);
  border-radius: 6px;
  padding: 5px 9px;
  background: var(--field);
  color: var(--ink);
  font-size: 14px;
  width: 210px;
}
.list-box {
  flex: 1;
  min-height: 0;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
.not-here {
  color: var(--ochre-ink);
}
.box {
  width: 26px;
}
.name span {
  overflow-wrap: anywhere;
}
.name {
  display: flex;
  gap: 8px;
  align-items: baseline;
}
.name i {
  color: var(--ink2);
  font-size: 13px;
}
.name small {
  display: block;
  color: var(--ink2);
}
.nowrap {
  white-space: nowrap;
}
footer {
  margin: 0 -20px;
  border-top: 1px solid var(--rule);
  padding: 11px 20px;
  display: flex;
  align-items: center;
  gap: 12px;
  min-height: 62px;
}
.btn.off {
  background: var(--fold);
  color: var(--ink2);
  cursor: not-allowed;
}
aside {
  padding: 16px 18px;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 8px;
}
aside img {
  max-width: 100%;
  border: 1px solid var(--rule);
  border-radius: 6px;
}
pre {
  margin: 0;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 6px;
  padding: 10px;
  font: 12.5px/1.45 var(--mono);
  overflow: auto;
  min-height: 120px;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
}
pre.hex {
  white-space: pre;
  font-size: 11px;
}
</style>
