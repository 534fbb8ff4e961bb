<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { Taking } from '../api/types'
import Core from '../drawing/Core.vue'
import Curve from '../drawing/Curve.vue'
import Milestones from '../parts/common/Milestones.vue'
import StandsStill from '../parts/common/StandsStill.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import { bytesRange, LEVELS } from '../parts/takings/forecast'
import SalvageMap from '../parts/takings/SalvageMap.vue'
import { facts, limitWords, passWords, percent, phase, title } from '../parts/takings/words'
import { bytes, clock, moment, range, roleName, span, speed } from '../words/format'
import { vMay } from '../words/may'
import { tabIcon, tellMe, telling } from '../words/tell'

/** The taking of an image while it runs, and what came of it. */
const props = defineProps<{ id: string }>()
const taking = ref<Taking | null>(null)
const parts = computed(() => taking.value?.on_drive ?? [])
const error = ref('')
const asking = ref(false)
const passphrase = ref('')
const running = computed(() => !!taking.value && ['queued', 'running'].includes(taking.value.state))
const done = computed(() => (taking.value ? percent(taking.value) : 0))
/** Number → share, of the parts that are taken. */
const shares = computed(() => {
  const one = taking.value
  if (!one || one.state === 'done' || one.salvage) return undefined
  const told = new Map((one.progress.parts ?? []).map((part) => [part.number, part.total ? part.done / part.total : 1]))
  return Object.fromEntries(parts.value.map((part) => [String(part.number), told.get(part.number) ?? 0]))
})
const rows = computed(() =>
  (taking.value?.progress.parts ?? []).map((told) => {
    const part = parts.value.find((one) => one.number === told.number)
    return {
      ...told,
      name: part ? part.name || part.volume.label || roleName(part.role) : 'Outside of parts',
    }
  }),
)
const seconds = computed(() =>
  taking.value?.started_at && taking.value.finished_at
    ? (Date.parse(taking.value.finished_at) - Date.parse(taking.value.started_at)) / 1000
    : 0,
)
const said = computed(() => {
  const expected = taking.value?.expected
  return expected ? `said ${range(expected.seconds[0]!, expected.seconds[1]!)} with the check` : 'not measured before'
})
const saidStored = computed(() => {
  const stored = taking.value?.expected?.stored
  return stored ? `said ${bytesRange([stored[0]!, stored[1]!])}` : ''
})
const sub = computed(() => {
  const one = taking.value
  if (!one) return undefined
  const when = one.started_at ? `begun ${moment(one.started_at)} by ${one.by}` : `asked for by ${one.by}`
  const drive = `${one.drive.maker ?? ''} ${one.drive.model ?? ''}`.trim()
  return [one.drive.computer, drive, `port ${one.drive.port}`, when].filter(Boolean).join(' · ')
})
const left = computed(() => {
  const one = taking.value!
  if (one.state === 'queued') return 'Waits for what runs before it'
  if (one.progress.pass && phase(one) === 'takes') return passWords(one)
  const what = phase(one) === 'checks' ? 'left for reading back' : 'left'
  return one.left ? `${range(one.left.low, one.left.high)} ${what}` : 'Measuring…'
})

async function load() {
  try {
    taking.value = await api.get<Taking>(`/takings/${props.id}`)
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

async function ask(what: 'pause' | 'stop' | 'enough' | 'go-on') {
  const body = what === 'go-on' && passphrase.value ? { passphrase: passphrase.value } : {}
  passphrase.value = ''
  asking.value = false
  try {
    taking.value = await api.post<Taking>(`/takings/${props.id}/${what}`, body)
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
    await load()
  }
}

watch([done, running], () => {
  tabIcon(running.value ? done.value : null)
  document.title = running.value ? `${done.value} % · Taking an image · Evrel` : 'An image of a drive · Evrel'
})
watch(
  () => props.id,
  () => {
    taking.value = null
    load()
  },
)
onUnmounted(() => tabIcon(null))
useLive({
  taking: (next) => {
    if (next.id === Number(props.id)) taking.value = next
  },
  event: load,
  images: () => taking.value?.image && load(),
  back: load,
})
load()
</script>

<template>
  <div class="beside">
    <StationFrame
      :title="taking ? title(taking) : 'Taking an image'"
      :sub="sub"
      :error="error || null"
      :loading="!taking"
      page
    >
      <template v-if="taking">
        <div class="grid">
          <h2 class="hidden-words">How it goes</h2>
          <div class="drawn">
            <Core
              :parts="parts"
              :size="taking.drive.capacity"
              :width="86"
              :height="440"
              :written="shares"
              label="The drive"
            />
            <SalvageMap
              v-if="taking.salvage && taking.progress.ranges"
              :parts="parts"
              :size="taking.drive.capacity"
              :height="440"
              :ranges="taking.progress.ranges"
            />
          </div>
          <div>
            <div class="figures">
              <div>
                <b class="huge">{{ done }} %</b
                ><span v-if="phase(taking) === 'checks'">read back from {{ taking.shelf }}</span
                ><span v-else-if="taking.progress.total"
                  >{{ bytes(taking.progress.done ?? 0) }} of {{ bytes(taking.progress.total) }} read</span
                ><span v-else>Looking at what is used</span>
              </div>
              <div>
                <template v-if="running"
                  ><b>{{ left }}</b
                  ><span>{{ said }}</span></template
                >
                <template v-else-if="seconds"
                  ><b>{{ span(seconds) }} {{ taking.state === 'done' ? 'for taking it' : 'so far' }}</b
                  ><span>{{ said }}</span></template
                >
              </div>
              <div class="last">
                <template v-if="running"
                  ><b>{{ speed(taking.progress.speed ?? 0) }}</b
                  ><span>{{ limitWords(taking) }}</span></template
                >
                <template v-else-if="taking.summary?.stored"
                  ><b>{{ bytes(taking.summary.stored) }}</b
                  ><span>{{ saidStored }}</span></template
                >
              </div>
            </div>
            <Milestones :percent="done" :step="title(taking)" :running="running" />
            <p><StandsStill :work="`taking-${taking.id}`" :running="taking.state === 'running'" /></p>
            <Curve
              v-if="taking.speeds.length > 1"
              :values="taking.speeds"
              :from="taking.started_at ? clock(taking.started_at) : ''"
              :to="taking.finished_at && !running ? clock(taking.finished_at) : 'now'"
            />
            <dl>
              <dt>Onto</dt>
              <dd>
                {{ taking.shelf ?? 'a shelf that was taken away'
                }}<span class="mono small path">{{ taking.folder }}</span>
              </dd>
              <dt>How</dt>
              <dd>
                {{ taking.salvage ? 'In passes, as for a failing drive; ' : '' }}{{ LEVELS[taking.level][0]
                }}{{ taking.locked ? ', with a passphrase' : '' }},
                {{ taking.checked ? 'checked afterwards' : 'not checked'
                }}{{ taking.temporary ? '' : ', without what the system makes anew' }}
              </dd>
              <template v-if="taking.onto"
                ><dt>Stored</dt>
                <dd>Only what changed since the image of {{ moment(taking.onto.taken_at) }}</dd></template
              >
              <template v-if="taking.note"
                ><dt>Note</dt>
                <dd>{{ taking.note }}</dd></template
              >
              <template v-if="taking.salvage && taking.progress.pass"
                ><dt>Not read</dt>
                <dd>
                  {{ bytes(taking.progress.bad ?? 0) }} that cannot be read,
                  {{ bytes(taking.progress.skipped ?? 0) }} left behind for a later pass,
                  {{ taking.progress.errors ?? 0 }}
                  reads that failed
                </dd></template
              >
              <template v-if="taking.progress.hit?.length"
                ><dt>Files hit</dt>
                <dd>
                  <span
                    v-for="file in taking.progress.hit"
                    :key="`${file.part} ${file.path}`"
                    class="mono small path"
                    >{{ file.path ?? `part ${file.part}: its files cannot be told` }}</span
                  >
                </dd></template
              >
              <template v-if="running && rows.length"
                ><dt>Parts</dt>
                <dd>
                  <span v-for="row in rows" :key="row.name" class="part small"
                    ><span>{{ row.name }}</span
                    ><span class="bar"><i :style="{ width: `${(100 * row.done) / (row.total || 1)}%` }" /></span
                    ><span class="muted">{{ bytes(row.total) }}</span></span
                  >
                </dd></template
              >
            </dl>
          </div>
        </div>
      </template>
      <template v-if="taking" #foot>
        <template v-if="running">
          <button v-may="'technician'" type="button" class="btn" :disabled="taking.pause_asked" @click="ask('pause')">
            {{ taking.pause_asked ? 'Pausing…' : 'Pause' }}
          </button>
          <button
            v-if="!asking"
            v-may="'technician'"
            type="button"
            class="btn"
            :disabled="taking.stop_asked"
            @click="asking = true"
          >
            {{ taking.stop_asked ? 'Stopping…' : 'Stop…' }}
          </button>
          <button
            v-if="taking.salvage && taking.progress.pass"
            v-may="'technician'"
            type="button"
            class="btn"
            :disabled="taking.enough_asked"
            title="The image is made of what was read so far"
            @click="ask('enough')"
          >
            What matters is here
          </button>
          <label class="push small muted"
            ><input type="checkbox" :checked="telling" @change="tellMe(($event.target as HTMLInputElement).checked)" />
            Tell me when it ends</label
          ><span class="small muted">Safe to close this page: it goes on where it was.</span>
        </template>
        <template v-else-if="['paused', 'failed'].includes(taking.state)">
          <span class="small muted">What was read is kept on its shelf: it goes on from there.</span>
          <label v-if="taking.locked" class="small"
            >Passphrase <input v-model="passphrase" type="password" autocomplete="off" maxlength="512"
          /></label>
          <button v-if="!asking" v-may="'technician'" type="button" class="btn push" @click="asking = true">
            Stop…
          </button>
          <button
            v-if="taking.salvage && taking.progress.pass"
            v-may="'technician'"
            type="button"
            class="btn"
            title="The image is made of what was read so far"
            @click="ask('enough')"
          >
            What matters is here
          </button>
          <button v-may="'technician'" type="button" class="btn go" data-main @click="ask('go-on')">Go on</button>
        </template>
        <template v-else-if="taking.image">
          <span class="small muted">{{
            taking.image.checked_at ? `Checked ${moment(taking.image.checked_at)}` : ''
          }}</span>
          <RouterLink class="btn push" :to="`/images/${taking.image.id}/inside`">Look inside</RouterLink>
          <RouterLink class="btn go" :to="`/images?show=${taking.image.id}`">See it among the images</RouterLink>
        </template>
        <RouterLink v-else class="btn push" :to="`/drives/${taking.drive.id}/take`">Take another one</RouterLink>
        <span v-if="asking" class="sure small" role="alertdialog" aria-label="Stop it?"
          >Nothing of it is kept.
          <button type="button" class="btn slim hot" @click="ask('stop')">Stop, and keep nothing</button
          ><button type="button" class="btn slim" @click="asking = false">Let it be</button></span
        >
      </template>
    </StationFrame>
    <Ledger :title="running ? 'While it is taken' : 'What came of it'" :facts="taking ? facts(taking) : []" />
  </div>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 40px;
  padding-top: 6px;
}
.drawn {
  display: flex;
  gap: 6px;
  align-items: start;
}
dl {
  display: grid;
  grid-template-columns: 70px minmax(0, 1fr);
  gap: 8px 14px;
  font-size: 14px;
  margin: 18px 0 0;
}
dt {
  color: var(--ink2);
}
dd {
  margin: 0;
}
.path {
  display: block;
  color: var(--ink2);
  overflow-wrap: anywhere;
}
.part {
  display: grid;
  grid-template-columns: minmax(0, 180px) 160px auto;
  gap: 12px;
  align-items: center;
  padding: 2px 0;
}
.bar {
  height: 8px;
  border-radius: 4px;
  background: var(--fold);
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--spruce);
}
.sure {
  display: flex;
  gap: 8px;
  align-items: center;
}
</style>
