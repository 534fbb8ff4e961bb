<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import type { Comparison } from '../api/types'
import Core from '../drawing/Core.vue'
import { bytes, count, exact, moment } from '../words/format'
import { held, insideOf, type Held, type HeldKind } from '../words/held'
import { partName } from '../words/images'
import { useKeys } from '../words/keys'
import { useRows } from '../words/rows'

/** Two images, or an image and a drive as it is now. */
const props = defineProps<{ kind: HeldKind; id: string; other: string }>()
const router = useRouter()
const images = ref<Held[]>([])
const result = ref<Comparison | null>(null)
const number = ref<number | null>(null)
const folder = ref<string | null>(null)
const error = ref('')
const part = computed(() => result.value?.parts.find((one) => one.number === number.value) ?? null)
const opened = computed(() => part.value?.folders.find((one) => one.path === folder.value) ?? null)
const folders = computed(() => part.value?.folders ?? [])
const at = computed({
  get: () => folders.value.findIndex((one) => one.path === folder.value),
  set: (index) => (folder.value = folders.value[index]?.path ?? null),
})
const { row, move, onKey } = useRows(useTemplateRef<HTMLElement>('list'), () => folders.value.length, at)
const WORDS = { came: ['ok', 'came'], went: ['no', 'went'], changed: ['ask', 'changed'] } as const

async function load() {
  error.value = ''
  result.value = null
  try {
    const pair = await Promise.all([held(props.kind, props.id), held('images', props.other)])
    images.value = pair.sort((one, two) => Date.parse(one.taken_at) - Date.parse(two.taken_at))
    result.value = await api.get<Comparison>(`/${props.kind}/${props.id}/compare/${props.other}`)
    const most = [...result.value.parts].sort((one, two) => two.folders.length - one.folders.length)[0]
    number.value = most?.number ?? null
    folder.value = most?.folders[0]?.path ?? null
  } catch (problem) {
    error.value = errorText(problem)
  }
}

function choose(next: number) {
  number.value = next
  folder.value = part.value?.folders[0]?.path ?? null
}

watch(() => [props.kind, props.id, props.other], load, { immediate: true })
const back = computed(() =>
  props.kind === 'images' ? `/images?show=${props.id}` : insideOf({ kind: 'drives', id: Number(props.id) }),
)
useKeys({ escape: () => router.push(back.value), arrowdown: () => move(1), arrowup: () => move(-1) })
</script>

<template>
  <div class="page">
    <div class="head">
      <h1>
        What changed between {{ kind === 'images' ? 'two images' : 'an image and the drive'
        }}{{ images[0]?.computer ? ` of ${images[0].computer}` : '' }}
      </h1>
      <RouterLink class="btn slim push" :to="back">Back</RouterLink>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div v-if="images.length" class="body">
      <div class="cores">
        <figure v-for="(image, index) in images" :key="`${image.kind}-${image.id}`">
          <figcaption>
            <b>{{ index ? 'Newer' : 'Older' }}</b><br />{{
              image.kind === 'images' ? moment(image.taken_at) : 'The drive'
            }}<br /><span class="chip" :class="image.chip[0]">{{ image.chip[1] }}</span>
          </figcaption>
          <Core :parts="image.parts" :size="image.size_bytes" :width="52" :height="300" />
          <RouterLink class="small" :to="insideOf(image)">Look inside</RouterLink>
        </figure>
      </div>
      <section v-if="result" class="folders" aria-label="Folders">
        <div class="tabs" role="group" aria-label="Parts">
          <button
            v-for="one in result.parts"
            :key="one.number"
            type="button"
            class="btn slim"
            :class="{ on: one.number === number }"
            :aria-pressed="one.number === number"
            @click="choose(one.number)"
          >
            {{ one.name || partName(images[1]!.parts.find((p) => p.number === one.number)!) }}
          </button>
        </div>
        <p v-if="part?.note" class="message ask">{{ part.note }}</p>
        <p v-else-if="part" class="small muted">
          {{ count(part.came) }} came, {{ count(part.went) }} went, {{ count(part.changed) }} changed;
          {{ count(part.same) }} files are the same by size and time
        </p>
        <div ref="list" class="scroll rows" tabindex="-1">
          <table v-if="part?.folders.length" class="list">
            <thead>
              <tr>
                <th>Folder</th>
                <th class="right">Came</th>
                <th class="right">Went</th>
                <th class="right">Changed</th>
                <th class="right">Bytes</th>
              </tr>
            </thead>
            <tbody @keydown="onKey">
              <tr
                v-for="(one, index) in part.folders"
                :key="one.path"
                v-bind="row(index)"
                @click="folder = one.path"
                @focus="folder = one.path"
              >
                <td class="mono">{{ one.path }}</td>
                <td class="right">{{ one.came || '' }}</td>
                <td class="right">{{ one.went || '' }}</td>
                <td class="right">{{ one.changed || '' }}</td>
                <td class="right" :title="exact(one.bytes)">{{ bytes(one.bytes) }}</td>
              </tr>
            </tbody>
          </table>
          <div v-else-if="part && !part.note" class="empty"><b>Nothing differs in this part</b></div>
        </div>
      </section>
      <p v-else-if="!error" class="empty" role="status">Reading both…</p>
      <aside v-if="opened" class="scroll" aria-label="Files of the folder" tabindex="0">
        <h2 class="mono">{{ opened.path }}</h2>
        <div v-for="file in opened.files" :key="file.name" class="file">
          <span class="chip" :class="WORDS[file.change][0]">{{ WORDS[file.change][1] }}</span>
          <div>
            <bdi>{{ file.name }}</bdi><small class="muted"
              >{{ file.before === null ? '' : bytes(file.before) }}{{ file.change === 'changed' ? ' → ' : ''
              }}{{ file.after === null ? '' : bytes(file.after)
              }}{{ file.modified_at ? `, ${moment(file.modified_at)}` : '' }}</small
            >
          </div>
        </div>
        <p v-if="opened.came + opened.went + opened.changed > opened.files.length" class="small muted">
          Only the first {{ opened.files.length }} are listed.
        </p>
      </aside>
    </div>
    <p v-else-if="!error" class="empty" role="status">Reading…</p>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  display: flex;
  flex-direction: column;
  gap: 10px;
  padding: 16px 20px;
  background: var(--sheet);
}
.head {
  display: flex;
  align-items: center;
  gap: 14px;
}
h1 {
  font-size: 19px;
  font-weight: 750;
}
h2 {
  font-size: 15px;
  overflow-wrap: anywhere;
}
.body {
  flex: 1;
  min-height: 0;
  display: grid;
  grid-template-columns: 260px minmax(0, 1fr) 320px;
  gap: 22px;
}
.cores {
  display: flex;
  gap: 26px;
}
figure {
  margin: 0;
  display: grid;
  gap: 10px;
  align-content: start;
  justify-items: start;
  font-size: 14px;
}
.folders {
  display: flex;
  flex-direction: column;
  gap: 8px;
  min-height: 0;
}
.tabs {
  display: flex;
  gap: 6px;
  flex-wrap: wrap;
}
.tabs .on {
  background: var(--tab);
  color: var(--on-tab);
  border-color: var(--tab);
}
.rows {
  flex: 1;
  min-height: 0;
}
tr {
  cursor: pointer;
}
tr.on td {
  background: var(--ember-l);
}
td.mono {
  overflow-wrap: anywhere;
}
aside {
  min-height: 0;
  display: grid;
  gap: 2px;
  align-content: start;
  border-left: 1px solid var(--rule);
  padding-left: 18px;
}
.file {
  display: grid;
  grid-template-columns: 78px 1fr;
  gap: 8px;
  padding: 6px 0;
  border-bottom: 1px solid var(--fold);
  font-size: 14px;
  overflow-wrap: anywhere;
}
.file .chip {
  justify-self: start;
  align-self: start;
}
.file small {
  display: block;
}
</style>
