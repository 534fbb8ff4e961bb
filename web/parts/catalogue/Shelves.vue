<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { onMounted, ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Shelf } from '../../api/types'
import { ago, moment, speed } from '../../words/format'
import { percentOf } from '../../words/progress'
import Milestones from '../common/Milestones.vue'
import StandsStill from '../common/StandsStill.vue'
import ShelfForm from './ShelfForm.vue'
import ShelfRoom from './ShelfRoom.vue'
import { vMay } from '../../words/may'

/** The places that hold images. */
const props = defineProps<{ shelves: Shelf[]; focus?: boolean }>()
const emit = defineEmits<{ changed: [] }>()
const adding = ref(false)
const editing = ref<Shelf | null>(null)
const problems = ref<{ shelf: Shelf; list: { path: string; problem: string }[] } | null>(null)
const leaving = ref<Shelf | null>(null)
const error = ref('')
const KINDS = { folder: 'Folder', drive: 'Drive', web: 'Web' }

onMounted(() => {
  if (props.focus) adding.value = true
})

async function ask(request: () => Promise<unknown>) {
  error.value = ''
  try {
    await request()
    emit('changed')
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function showProblems(shelf: Shelf) {
  await ask(async () => {
    problems.value = { shelf, list: await api.get(`/shelves/${shelf.id}/problems`) }
  })
}

async function takeAway(shelf: Shelf) {
  leaving.value = null
  await ask(() => api.delete(`/shelves/${shelf.id}`))
}

const busy = (shelf: Shelf) => shelf.look.state === 'queued' || shelf.look.state === 'running'

/** The end of a path is what tells it from others; the whole of it shows on hover. */
function short(path: string): string {
  const names = path.split('/').filter(Boolean)
  return names.length > 2 ? `…/${names.slice(-2).join('/')}` : path
}

/** Where it is, and how it is doing. */
function words(shelf: Shelf): string {
  const where =
    shelf.kind === 'drive'
      ? shelf.port
        ? `on port ${shelf.port}`
        : `last on port ${shelf.last_port}`
      : shelf.kind === 'folder'
        ? short(shelf.address ?? '')
        : shelf.address
  const pace = shelf.read_speed ? `read at ${speed(shelf.read_speed)}` : null
  const since =
    !shelf.reachable && shelf.since
      ? `${shelf.kind === 'web' ? 'no answer' : 'away'} since ${moment(shelf.since)}`
      : null
  const images = `${shelf.images} image${shelf.images === 1 ? '' : 's'}`
  return [where, images, since, pace].filter(Boolean).join(' · ')
}

function lookWords(shelf: Shelf): string {
  if (shelf.look.state === 'queued') return 'Waiting to be looked through…'
  if (shelf.look.state === 'running')
    return shelf.look.total ? `Looking, ${shelf.look.done} of ${shelf.look.total} files` : 'Looking…'
  if (shelf.look.error) return shelf.look.error
  return shelf.looked_at ? `Looked through ${ago(shelf.looked_at)}` : 'Not looked through yet'
}

function done() {
  adding.value = false
  editing.value = null
  emit('changed')
}

function leave() {
  leaving.value = editing.value
  editing.value = null
}
</script>

<template>
  <section aria-label="Shelves">
    <div class="head">
      <h2>Shelves</h2>
      <button v-may="'lead'" type="button" class="btn slim push" @click="adding = true">Add a shelf…</button>
    </div>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <div class="list scroll">
      <div v-for="shelf in shelves" :key="shelf.id" class="shelf">
        <span class="chip" :class="shelf.reachable ? 'ok' : 'no'">{{
          shelf.reachable ? KINDS[shelf.kind] : 'Away'
        }}</span>
        <div class="about" :title="shelf.address ?? undefined">
          <b>{{ shelf.name }}</b> <span class="small muted">{{ words(shelf) }}</span><br /><span
            class="small"
            :class="{ bad: shelf.look.error && !busy(shelf) }"
            >{{ lookWords(shelf) }}</span
          >
          <Milestones
            :percent="percentOf(shelf.look)"
            :step="
              busy(shelf) ? `Looking through ${shelf.name}` : `${shelf.name}: ${shelf.look.error ?? 'looked through'}`
            "
            :running="busy(shelf)"
          />
          <StandsStill :work="`shelf-${shelf.id}`" :running="shelf.look.state === 'running'" />
          <button v-if="shelf.problems" type="button" class="plain small" @click="showProblems(shelf)">
            {{ shelf.problems }} could not be read
          </button>
        </div>
        <ShelfRoom :shelf="shelf" />
        <button
          v-if="busy(shelf)"
          type="button"
          v-may="'technician'"
          class="btn slim"
          @click="ask(() => api.post(`/shelves/${shelf.id}/look/stop`))"
        >
          Stop
        </button>
        <button
          v-else
          type="button"
          v-may="'technician'"
          class="btn slim"
          :disabled="!shelf.reachable && shelf.kind !== 'web'"
          @click="ask(() => api.post(`/shelves/${shelf.id}/look`))"
        >
          Look through
        </button>
        <button
          v-may="'lead'"
          type="button"
          class="btn slim"
          :aria-label="`Change shelf ${shelf.name}`"
          @click="editing = shelf"
        >
          Change…
        </button>
      </div>
      <p v-if="!shelves.length" class="small muted">No shelf yet.</p>
    </div>
    <Dialog v-model:visible="adding" modal header="Add a shelf" :style="{ width: '520px' }"
      ><ShelfForm @done="done"
    /></Dialog>
    <Dialog
      :visible="editing !== null"
      modal
      :header="`Shelf ${editing?.name}`"
      :style="{ width: '520px' }"
      @update:visible="editing = null"
    >
      <ShelfForm v-if="editing" :shelf="editing" @done="done" @take-away="leave" />
    </Dialog>
    <Dialog
      :visible="leaving !== null"
      modal
      :header="`Take shelf ${leaving?.name} away`"
      :style="{ width: '440px' }"
      @update:visible="leaving = null"
    >
      <p>
        Its {{ leaving?.images }} images leave the catalogue, with what is known of them. Nothing on the shelf itself is
        touched.
      </p>
      <button type="button" class="btn hot" @click="leaving && takeAway(leaving)">Take it away</button>
    </Dialog>
    <Dialog
      :visible="problems !== null"
      modal
      :header="`Not readable on ${problems?.shelf.name}`"
      :style="{ width: '620px' }"
      @update:visible="problems = null"
    >
      <ul class="problems scroll">
        <li v-for="one in problems?.list" :key="one.path">
          <span class="mono">{{ one.path }}</span><br /><span class="muted">{{ one.problem }}</span>
        </li>
      </ul>
    </Dialog>
  </section>
</template>

<style scoped>
.head {
  display: flex;
  align-items: center;
  margin-bottom: 6px;
}
h2 {
  font-size: 15px;
}
.list {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 6px;
  max-height: 190px;
}
.shelf .chip {
  min-width: 58px;
  justify-content: center;
}
.shelf {
  display: flex;
  gap: 10px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 8px;
  padding: 5px 10px;
}
.about {
  flex: 1;
  min-width: 0;
  line-height: 1.25;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.bad {
  color: var(--crimson);
}
.plain {
  border: 0;
  background: none;
  color: var(--crimson);
  text-decoration: underline;
  padding: 0 0 0 8px;
  cursor: pointer;
}
.problems {
  max-height: 320px;
  margin: 0;
  padding-left: 18px;
}
p + .btn {
  margin-top: 14px;
}
</style>
