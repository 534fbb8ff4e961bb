<script setup lang="ts">
import { computed, onUnmounted, watch } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { Docket, WriteOptions as Options, WriteView } from '../api/types'
import Core from '../drawing/Core.vue'
import HoldButton from '../parts/common/HoldButton.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import Waits from '../parts/dockets/Waits.vue'
import WriteFigures from '../parts/writes/WriteFigures.vue'
import WriteOptions from '../parts/writes/WriteOptions.vue'
import WriteOrders from '../parts/writes/WriteOrders.vue'
import WriteTrouble from '../parts/writes/WriteTrouble.vue'
import WriteWarning from '../parts/writes/WriteWarning.vue'
import { bytes, clock, moment } from '../words/format'
import { isRunning, orderAt, partShares } from '../words/orders'
import { done } from '../words/progress'
import { tabIcon, tellMe, telling } from '../words/tell'
import { useStation } from './useStation'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, load, attempt } = useStation<WriteView>('write', () => props.docket, emit)
const write = computed(() => view.value?.write ?? null)
const orders = computed(() => view.value?.orders ?? [])
const running = computed(() => isRunning(write.value))
const percent = computed(() => done(write.value?.progress ?? {}))
const summary = computed(() => write.value?.summary ?? null)
const title = computed(() => {
  const target = view.value?.target
  const where = target ? `port ${target.port ?? '–'}, label …${target.label}` : ''
  if (write.value?.state === 'done') return `Written to ${where}`
  const reading = orders.value[orderAt(orders.value, write.value)]?.kind === 'read_back'
  if (running.value) return reading ? `Reading back from ${where}` : `Writing to ${where}`
  if (write.value?.state === 'paused') return `Paused, ${where}`
  return write.value ? 'The write has stopped' : 'Read the orders once more'
})
const canBegin = computed(
  () =>
    view.value !== null &&
    !view.value.waits_for &&
    !running.value &&
    !write.value?.trouble &&
    write.value?.state !== 'done' &&
    view.value.target?.attached === true,
)

/** Asks for something to be done about the write, and shows what came of it. */
async function ask(what: '' | '/stop' | '/pause' | '/decide', body: object = {}) {
  const done = await attempt(() => api.post(`/dockets/${props.docket.id}/write${what}`, body))
  if (!done) return
  await load()
  emit('changed')
}

async function choose(given: Partial<Options>) {
  const next = await attempt(() => api.patch<WriteView>(`/dockets/${props.docket.id}/write/options`, given))
  if (next) view.value = next
}

watch([percent, running], () => {
  tabIcon(running.value ? percent.value : null)
  document.title = running.value
    ? `${percent.value} % · ${props.docket.computer} · Evrel`
    : `${props.docket.computer} · ${props.docket.number} · Evrel`
})
onUnmounted(() => tabIcon(null))
useLive({
  write: (next) => {
    if (view.value && next.docket_id === props.docket.id) view.value.write = next
  },
})
</script>

<template>
  <StationFrame
    :title="view?.waits_for ? 'Write' : title"
    :sub="write?.started_at ? `started ${clock(write.started_at)} by ${write.technician}` : undefined"
    :error="error"
    :loading="!view"
  >
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view?.target" class="grid">
      <Core
        :parts="view.target.parts"
        :size="view.target.size_bytes"
        :width="86"
        :height="440"
        :written="partShares(orders, write)"
        label="The target"
      />
      <div>
        <WriteFigures v-if="write" :write="write" :view="view" :title="title" />
        <template v-else>
          <WriteWarning :view="view" />
          <WriteOptions v-if="view.options" :options="view.options" @choose="choose" />
        </template>
        <WriteTrouble
          :from-drive="view.options?.from_drive ?? false"
          v-if="write?.trouble && !running"
          :trouble="write.trouble"
          :port="view.target.port"
          :busy="busy"
          @decide="ask('/decide', { choice: $event })"
        />
        <WriteOrders :view="view" />
        <p v-if="view.along" class="small">
          An image of the drive goes onto {{ view.along.shelf ?? 'a shelf' }} at the same time:
          <RouterLink :to="`/takings/${view.along.id}`">see how it is</RouterLink>
        </p>
        <p v-if="summary?.digest" class="small muted digest">
          {{ summary.discarded ? `${bytes(summary.discarded)} of unused room emptied. ` : '' }}Digest of all that was
          read back: <span class="mono" :title="`BLAKE3 ${summary.digest}`">{{ summary.digest.slice(0, 16) }}…</span>
        </p>
        <p v-if="write?.error && !write.trouble && write.state !== 'paused'" class="message" role="alert">
          {{ write.error }}
        </p>
      </div>
    </div>
    <template #foot>
      <template v-if="running"
        ><button v-may="'technician'" type="button" class="btn" :disabled="write?.pause_asked" @click="ask('/pause')">
          {{ write?.pause_asked ? 'Pausing…' : 'Pause' }}</button
        ><button v-may="'technician'" type="button" class="btn" :disabled="write?.stop_asked" @click="ask('/stop')">
          {{ write?.stop_asked ? 'Stopping…' : 'Stop at a safe point' }}</button
        ><label class="push small muted"
          ><input type="checkbox" :checked="telling" @change="tellMe(($event.target as HTMLInputElement).checked)" />
          Tell me when it ends</label
        ><span class="small muted">Safe to close this page: a write goes on where it stopped.</span></template
      >
      <template v-else-if="write?.state === 'done'"
        ><span class="small">Read back and sealed {{ write.finished_at && moment(write.finished_at) }}</span
        ><RouterLink class="btn go push" :to="`/dockets/${docket.id}/start`">Prove that it starts</RouterLink></template
      >
      <span v-else-if="write?.trouble" class="small muted"
        >It waits for you: say above what is to be done. The disk has no partition table until it is whole.</span
      >
      <template v-else-if="!view?.waits_for">
        <span class="small muted">{{
          write?.state === 'paused'
            ? 'Half written, and without a table until it goes on. Hold the button, or Enter.'
            : 'There is no way back from the first order on. Hold the button, or Enter.'
        }}</span>
        <HoldButton v-may="'technician'" class="push" :disabled="!canBegin || busy" @held="ask('')">{{
          write ? 'Hold to go on' : `Hold to overwrite …${view?.target?.label ?? ''}`
        }}</HoldButton><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger
    :title="
      running ? 'While it writes' : write?.state === 'done' ? 'What came of it' : write ? 'So far' : 'Before it writes'
    "
    :facts="facts"
  />
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: 86px minmax(0, 1fr);
  gap: 40px;
  padding: 4px 20px;
}
.message {
  margin-top: 12px;
}
.digest {
  margin: 8px 0 0;
}
</style>
