<script setup lang="ts">
import { computed, ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../api/client'
import type { Run, RunSheet } from '../api/types'
import Core from '../drawing/Core.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { bytes, count, dated } from '../words/format'
import { pressMain, useKeys } from '../words/keys'
import { vMay } from '../words/may'

/** The sheet on which a run is asked for: which computers get this image, and what holds for all of them. */
const props = defineProps<{ id: string }>()
const router = useRouter()
const sheet = ref<RunSheet | null>(null)
const error = ref('')
const busy = ref(false)
const chosen = ref<number[]>([])
const way = ref<'fits' | 'stays'>('fits')
const reason = ref('')
const note = ref('')
/** Whether each system gets the name of its computer; and what else a table sets, in which files. */
const named = ref(true)
const table = ref('')
const templates = ref('')
const words = ref('')
const MOST = 60
const alike = computed(() => sheet.value?.computers.filter((one) => one.like) ?? [])
const shown = computed(() => {
  const wanted = words.value.toLowerCase()
  return sheet.value?.computers.filter((one) => `${one.name} ${one.place} ${one.model}`.toLowerCase().includes(wanted))
})
const ready = computed(
  () =>
    !busy.value &&
    chosen.value.length > 0 &&
    chosen.value.length <= MOST &&
    reason.value.trim() !== '' &&
    !!sheet.value?.image.there,
)
const said = computed(() => {
  if (!sheet.value?.image.there) return `Shelf ${sheet.value?.image.shelf} is not attached: plug it in first.`
  if (!chosen.value.length) return 'Choose the computers that get it.'
  if (chosen.value.length > MOST) return `A run has at most ${MOST} computers.`
  const dockets = chosen.value.length === 1 ? 'One docket' : `${count(chosen.value.length)} dockets`
  if (!reason.value.trim()) return `${dockets}. Say why this image is right for them.`
  return `${dockets} with computer and image sealed. Nothing is written before each drive is proved.`
})

async function load() {
  try {
    sheet.value = await api.get<RunSheet>(`/images/${props.id}/run`)
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function read(files: FileList | null) {
  if (files?.[0]) table.value = await files[0].text()
}

async function begin() {
  if (!ready.value) return
  busy.value = true
  error.value = ''
  try {
    const run = await api.post<Run>('/runs', {
      image_id: Number(props.id),
      computer_ids: sheet.value!.computers.map((one) => one.id).filter((id) => chosen.value.includes(id)),
      way: way.value,
      reason: reason.value,
      note: note.value || null,
      named: named.value,
      table: (named.value && table.value) || null,
      templates: named.value ? templates.value.split('\n').filter((line) => line.trim()) : null,
    })
    await router.push(`/runs/${run.id}`)
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    busy.value = false
  }
}

useKeys({ enter: pressMain })
load()
</script>

<template>
  <div class="alone">
    <StationFrame
      title="One image onto many drives"
      :sub="
        sheet ? `Image of ${sheet.image.computer ?? 'an unknown computer'}, ${dated(sheet.image.taken_at)}` : undefined
      "
      :error="error || null"
      :loading="!sheet"
      page
    >
      <template #corner><RouterLink class="btn slim" to="/runs">All runs</RouterLink></template>
      <div v-if="sheet" class="columns">
        <div>
          <Core :parts="sheet.image.parts" :size="sheet.image.size_bytes" :width="86" :height="400" label="The image" />
          <p class="small muted">{{ bytes(sheet.image.used_bytes) }} used<br />on {{ sheet.image.shelf }}</p>
        </div>
        <div>
          <h2>For which computers</h2>
          <div class="find">
            <input
              v-model="words"
              type="search"
              aria-label="Only computers with these words"
              placeholder="Name or place"
            />
            <button
              v-if="alike.length"
              type="button"
              class="btn slim"
              @click="chosen = alike.slice(0, MOST).map((one) => one.id)"
            >
              All {{ alike.length }} of the image’s model
            </button>
          </div>
          <ul class="scroll" tabindex="0" aria-label="Computers">
            <li v-for="one in shown" :key="one.id">
              <label
                ><input v-model="chosen" type="checkbox" :value="one.id" /><b>{{ one.name }}</b
                ><span class="small muted">{{ one.place }}</span
                ><span class="small muted">{{ one.model }}</span></label
              >
            </li>
            <li v-if="shown?.length === 0" class="small muted">
              {{ words ? 'None has these words.' : 'All computers are in another run, or none is known.' }}
            </li>
          </ul>
        </div>
        <div class="wishes">
          <h2>What holds for all of them</h2>
          <label class="tick"
            ><input v-model="way" type="radio" value="fits" /><span
              >Fitted to each drive<small
                >On a larger drive the part with the system grows, on a smaller one parts shrink.</small
              ></span
            ></label
          >
          <label class="tick"
            ><input v-model="way" type="radio" value="stays" /><span
              >As in the image<small>Room that is left over stays unallocated.</small></span
            ></label
          >
          <p class="small muted">Each drive gets identities of its own, and what names them is rewritten.</p>
          <label class="tick"
            ><input v-model="named" type="checkbox" /><span
              >Each system gets the name of its computer<small
                >Where the image’s name stands; machine identity and host keys are made anew.</small
              ></span
            ></label
          >
          <label class="field"
            >Why this image is right for all of them<textarea v-model="reason" rows="2" maxlength="2000" />
          </label>
          <label class="field"
            >Note<input v-model="note" maxlength="200" placeholder="Such as For the new season"
          /></label>
          <details v-if="named">
            <summary class="small">Set more, from a table</summary>
            <label class="field"
              >Table, as CSV: a line for each, with “name” and other columns<textarea
                v-model="table"
                class="mono"
                rows="4"
                placeholder="name,address"
                spellcheck="false"
              />
            </label>
            <label class="file small"
              >or from a file
              <input type="file" accept=".csv,text/csv" @change="read(($event.target as HTMLInputElement).files)"
            /></label>
            <label class="field"
              >Files in the image in which {column} becomes its value, one a line<textarea
                v-model="templates"
                class="mono"
                rows="2"
                placeholder="/etc/network.conf"
                spellcheck="false"
              />
            </label>
          </details>
        </div>
      </div>
      <template #foot>
        <span class="said">{{ said }}</span>
        <button v-may="'technician'" type="button" class="btn go push" data-main :disabled="!ready" @click="begin">
          Begin the run</button
        ><span class="key">Enter</span>
      </template>
    </StationFrame>
  </div>
</template>

<style scoped>
.alone {
  flex: 1;
  min-height: 0;
  display: grid;
}
h2 {
  font-size: 13px;
  font-weight: 700;
  color: var(--ink2);
  margin: 0 0 6px;
}
.columns {
  display: grid;
  grid-template-columns: 110px minmax(0, 1.3fr) minmax(0, 1fr);
  gap: 34px;
  padding-top: 6px;
  height: 100%;
}
.columns > * {
  min-height: 0;
  display: flex;
  flex-direction: column;
}
.find {
  display: flex;
  gap: 10px;
  margin-bottom: 8px;
}
.find input {
  flex: 1;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  flex: 1;
}
li {
  border-bottom: 1px solid var(--fold);
}
li label {
  display: grid;
  grid-template-columns: 20px 90px minmax(0, 1fr) 110px;
  gap: 8px;
  align-items: baseline;
  padding: 7px 4px;
  cursor: pointer;
}
.wishes {
  gap: 10px;
  overflow: auto;
}
details {
  display: grid;
  gap: 8px;
}
summary {
  cursor: pointer;
}
.tick {
  display: grid;
  grid-template-columns: 18px minmax(0, 1fr);
  gap: 6px;
  cursor: pointer;
}
.tick small {
  display: block;
  color: var(--ink2);
}
.said {
  font-size: 14px;
  line-height: 1.3;
}
@media (max-width: 900px) {
  .columns {
    grid-template-columns: minmax(0, 1fr);
    height: auto;
  }
}
</style>
