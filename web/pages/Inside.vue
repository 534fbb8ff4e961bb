<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import FilePreview from '../parts/catalogue/FilePreview.vue'
import FilesTable from '../parts/catalogue/FilesTable.vue'
import InsideParts from '../parts/catalogue/InsideParts.vue'
import { count } from '../words/format'
import { held, type Held, type HeldKind } from '../words/held'
import { browsable, partName, takeable } from '../words/images'
import { useKeys } from '../words/keys'
import { useListing } from './useListing'
import { vMay } from '../words/may'

const props = defineProps<{ kind: HeldKind; id: string }>()
const route = useRoute()
const router = useRouter()
const holding = ref<Held | null>(null)
const part = ref<number | null>(Number(route.query.part) || null)
const picked = ref(new Set<string>())
const base = computed(() => `/${props.kind}/${props.id}/parts/${part.value}`)
const { listing, found, preview, text, error, busy, at, rows, attempt, open, more, look, find, leaveFound, up } =
  useListing(base)
const table = useTemplateRef<InstanceType<typeof FilesTable>>('table')
const chosenPart = computed(() => holding.value?.parts.find((one) => one.number === part.value) ?? null)
const crumbs = computed(() => {
  const names = (listing.value?.path ?? '/').split('/').filter(Boolean)
  return names.map((name, index) => ({ name, path: `/${names.slice(0, index + 1).join('/')}` }))
})
function takeLink(kind: 'zip' | 'tar') {
  const paths = [...picked.value].map((path) => `path[]=${encodeURIComponent(path)}`)
  return `/api${base.value}/take?kind=${kind}&${paths.join('&')}`
}

async function load() {
  await attempt(async () => {
    holding.value = await held(props.kind, props.id)
    document.title = `Inside ${holding.value.computer ?? 'a disk'} · Evrel`
    const parts = holding.value.parts.filter(browsable)
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

function pick(path: string) {
  if (!picked.value.delete(path)) picked.value.add(path)
  picked.value = new Set(picked.value)
}

function pickChosen() {
  const entry = rows.value[at.value]
  if (entry && takeable(entry)) pick(entry.path)
}

function choose(number: number | null) {
  part.value = number
  picked.value = new Set()
  preview.value = null
  open('/')
}

function back() {
  const list = props.kind === 'images' ? `/images?show=${props.id}` : '/bench'
  router.push(route.query.docket ? `/dockets/${route.query.docket}/image` : list)
}

watch(() => [props.kind, props.id], load, { immediate: true })
useKeys({
  arrowdown: () => table.value?.move(1),
  arrowup: () => table.value?.move(-1),
  enter: () => rows.value[at.value] && look(rows.value[at.value]!),
  ' ': pickChosen,
  backspace: () => up() || back(),
  escape: back,
})
</script>

<template>
  <div v-if="holding" class="page">
    <InsideParts :holding="holding" :part="part" @choose="choose" />
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
      <FilesTable
        ref="table"
        v-model:at="at"
        :rows="rows"
        :picked="picked"
        :paths="!!found"
        @look="look"
        @pick="pick"
        @end="more"
      >
        <div v-if="found" class="empty">
          <b>Nothing in this part is called “{{ text }}”</b
          ><button type="button" class="btn" @click="leaveFound">Back to the folder</button>
        </div>
        <div v-else-if="listing" class="empty"><b>This folder is empty</b></div>
        <div v-else-if="part === null && !busy" class="empty">
          <b>No part of it can be looked into</b>Files are shown of ext, FAT and NTFS volumes.
        </div>
        <p v-else-if="busy" class="empty" role="status">Reading…</p>
      </FilesTable>
      <footer>
        <button type="button" class="btn" @click="back">Back</button>
        <span class="small muted">{{
          found ? `${found.length} found` : listing ? `${count(listing.total)} in this folder` : ''
        }}</span>
        <span class="push small">{{ picked.size ? `${picked.size} chosen` : 'Tick what you want to take out' }}</span>
        <a
          v-may="'technician'"
          class="btn"
          :class="{ off: !picked.size }"
          :aria-disabled="!picked.size"
          :href="picked.size ? takeLink('zip') : undefined"
          download
          >Take out as .zip</a
        >
        <a
          v-may="'technician'"
          class="btn"
          :class="{ off: !picked.size }"
          :aria-disabled="!picked.size"
          :href="picked.size ? takeLink('tar') : undefined"
          download
          >as .tar</a
        >
      </footer>
    </section>
    <FilePreview :preview="preview" :entry="rows[at] ?? null" :base="base" />
  </div>
  <div v-else-if="error" class="empty">
    <b>{{ error }}</b><button type="button" class="btn" @click="back">Back</button>
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
h1 {
  font-size: 17px;
  font-weight: 700;
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
  width: 210px;
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
</style>
