<script setup lang="ts">
import { computed, onUnmounted, ref, watch } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { Docket, Order, WriteOptions as Options, WriteView } from '../api/types'
import Core from '../drawing/Core.vue'
import Curve from '../drawing/Curve.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import OrderMark from '../parts/writes/OrderMark.vue'
import StandsStill from '../parts/common/StandsStill.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import Waits from '../parts/dockets/Waits.vue'
import WriteOptions from '../parts/writes/WriteOptions.vue'
import WriteTrouble from '../parts/writes/WriteTrouble.vue'
import { bytes, clock, exact, moment, range, span, speed } from '../words/format'
import { done } from '../words/progress'
import { tabIcon, tellMe, telling } from '../words/tell'
import { useStation } from './useStation'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, load, attempt } = useStation<WriteView>('write', () => props.docket, emit)
const HOLD = 900 // ms
const held = ref(0)
const write = computed(() => view.value?.write ?? null)
/** Parts of the target that a part restore leaves alone. */
const stays = computed(() => view.value?.target?.parts.filter((part) => (part.number ?? 0) < 0).length ?? 0)
const running = computed(() => write.value?.state === 'queued' || write.value?.state === 'running')
const orders = computed(() => view.value?.orders ?? [])
const at = computed(() => orders.value.findIndex((order) => order.id === write.value?.progress.order))
const total = computed(() =>
  orders.value.reduce((sum, order) => sum + (order.kind === 'part' ? (order.bytes ?? 0) : 0), 0),
)
const percent = computed(() => done(write.value?.progress ?? {}))
const reading = computed(() => orders.value[at.value]?.kind === 'read_back')
const title = computed(() => {
  const target = view.value?.target
  const where = target ? `port ${target.port ?? '–'}, label …${target.label}` : ''
  if (write.value?.state === 'done') return `Written to ${where}`
  if (running.value) return reading.value ? `Reading back from ${where}` : `Writing to ${where}`
  if (write.value?.state === 'paused') return `Paused, ${where}`
  return write.value ? 'The write has stopped' : 'Read the orders once more'
})
const share = computed(() =>
  Object.fromEntries(
    orders.value.filter((order) => order.kind === 'part').map((order) => [String(order.part), partShare(order)]),
  ),
)
const seconds = computed(() =>
  write.value?.started_at && write.value.finished_at
    ? (Date.parse(write.value.finished_at) - Date.parse(write.value.started_at)) / 1000
    : 0,
)

function state(index: number): 'done' | 'now' | 'ahead' | 'failed' | 'held' {
  if (!write.value) return 'ahead'
  if (write.value.state === 'done') return 'done'
  if (index < at.value) return 'done'
  if (index === at.value) return running.value ? 'now' : write.value.state === 'failed' ? 'failed' : 'held'
  return 'ahead'
}

function partShare(order: Order): number {
  const how = state(orders.value.indexOf(order))
  if (how === 'done') return 1
  if (how === 'ahead' || !order.bytes) return 0
  return (write.value?.progress.done ?? 0) / order.bytes
}

const LIMITS = {
  target: 'the target sets the pace',
  processor: 'the processor sets the pace',
  shelf: 'the shelf sets the pace',
}
const pace = computed(() => {
  const limit = write.value?.progress.limit
  return limit ? LIMITS[limit] : reading.value ? 'reading back' : 'writing'
})
const waiting = computed(() =>
  view.value?.before ? `Waits for ${view.value.before} before it` : 'Waiting for the worker',
)
const summary = computed(() => write.value?.summary ?? null)

/** What an order really did: of a part, what was written and what was there already. */
function did(outcome: { bytes: number | null; moved?: number; spared?: number }): string {
  if (!outcome.spared) return outcome.bytes ? `${bytes(outcome.bytes)} · ` : ''
  return `${bytes(outcome.moved ?? 0)} written, ${bytes(outcome.spared)} there already · `
}

function amount(order: Order, index: number): string {
  const outcome = write.value?.outcomes.find((one) => one.id === order.id)
  if (outcome) {
    const said = view.value?.expected?.orders?.[order.id]
    const told = said && Math.max(said, outcome.seconds) >= 2 ? `, said ${span(said)}` : ''
    return `${did(outcome)}${span(outcome.seconds)}${told}`
  }
  if (state(index) === 'now' && order.bytes) return `${bytes(write.value?.progress.done ?? 0)} of ${bytes(order.bytes)}`
  return order.bytes ? bytes(order.bytes) : ''
}

async function begin() {
  const started = await attempt(() => api.post(`/dockets/${props.docket.id}/write`))
  if (started) {
    await load()
    emit('changed')
  }
}

async function ask(what: 'stop' | 'pause') {
  await attempt(() => api.post(`/dockets/${props.docket.id}/write/${what}`))
  await load()
}

async function decide(choice: string) {
  const decided = await attempt(() => api.post(`/dockets/${props.docket.id}/write/decide`, { choice }))
  if (decided) {
    await load()
    emit('changed')
  }
}

async function choose(given: Partial<Options>) {
  const next = await attempt(() => api.patch<WriteView>(`/dockets/${props.docket.id}/write/options`, given))
  if (next) view.value = next
}

// Beginning takes a held key or button: it cannot happen by a slip.
let since = 0
let frame = 0
function press() {
  if (since || busy.value) return
  since = performance.now()
  const step = () => {
    held.value = Math.min(1, (performance.now() - since) / HOLD)
    if (held.value < 1) frame = requestAnimationFrame(step)
    else {
      release()
      begin()
    }
  }
  step()
}
function release() {
  cancelAnimationFrame(frame)
  since = 0
  held.value = 0
}
function keydown(event: KeyboardEvent) {
  const field = event.target as HTMLElement
  const taken =
    field.closest('a, button:not([data-hold]), input, select, textarea') || document.querySelector('[role="dialog"]')
  if (event.key === 'Enter' && canBegin.value && !taken) {
    event.preventDefault()
    press()
  }
}
const keyup = (event: KeyboardEvent) => event.key === 'Enter' && release()
const canBegin = computed(
  () =>
    view.value !== null &&
    !view.value.waits_for &&
    !running.value &&
    !write.value?.trouble &&
    write.value?.state !== 'done' &&
    view.value.target?.attached === true,
)
window.addEventListener('keydown', keydown)
window.addEventListener('keyup', keyup)

watch([percent, running], () => {
  tabIcon(running.value ? percent.value : null)
  document.title = running.value
    ? `${percent.value} % · ${props.docket.computer} · Evrel`
    : `${props.docket.computer} · ${props.docket.number} · Evrel`
})
onUnmounted(() => {
  release()
  tabIcon(null)
  window.removeEventListener('keydown', keydown)
  window.removeEventListener('keyup', keyup)
})
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
        :written="share"
        label="The target"
      />
      <div>
        <div v-if="write" class="figures" aria-live="polite">
          <div>
            <b class="huge">{{ write.state === 'done' ? '100' : percent }} %</b
            ><span>{{ bytes(write.progress.written ?? 0) }} of {{ bytes(total) }} written</span>
          </div>
          <div v-if="running">
            <b>{{
              write.left
                ? `${range(write.left.low, write.left.high)} left`
                : write.state === 'queued'
                  ? waiting
                  : 'Measuring…'
            }}</b><span>{{
              view.expected
                ? `said ${range(view.expected.low, view.expected.high)} in all`
                : 'no write measured here before'
            }}</span>
          </div>
          <div v-else-if="write.state === 'done'">
            <b>{{ span(seconds) }} in all</b
            ><span>{{
              view.expected ? `said ${range(view.expected.low, view.expected.high)}` : 'the first write measured here'
            }}</span>
          </div>
          <div class="last">
            <b>{{
              running ? speed(write.progress.speed ?? 0) : write.state === 'done' ? 'Verified' : 'Not whole'
            }}</b><span>{{
              running ? pace : write.state === 'done' ? 'read back from the disk itself' : 'no partition table on it'
            }}</span>
          </div>
        </div>
        <p v-if="write"><StandsStill :work="`write-${write.id}`" :running="write.state === 'running'" /></p>
        <Curve
          v-if="write && write.speeds.length > 1 && !write.trouble"
          :values="write.speeds"
          :from="write.started_at ? clock(write.started_at) : ''"
          :to="write.finished_at ? clock(write.finished_at) : 'now'"
        />
        <div v-if="!write" class="before">
          <b v-if="stays"
            >One part is written to the {{ bytes(view.target.capacity) }} {{ view.target.model }}, label …{{
              view.target.label
            }}: {{ stays === 1 ? 'one other stays as it is' : `${stays} others stay as they are` }}.</b
          >
          <b v-else
            >Everything on the {{ bytes(view.target.capacity) }} {{ view.target.model }}, label …{{
              view.target.label
            }}, is deleted.</b
          >
          <span class="small muted"
            >{{ bytes(total) }} will be written{{
              view.expected ? `, about ${range(view.expected.low, view.expected.high)} with the read-back` : ''
            }}.</span
          >
        </div>
        <WriteOptions v-if="!write && view.options" :options="view.options" @choose="choose" />
        <WriteTrouble
          v-if="write?.trouble && !running"
          :trouble="write.trouble"
          :port="view.target.port"
          :busy="busy"
          @decide="decide"
        />
        <ol class="orders" aria-label="Orders">
          <li v-for="(order, index) in orders" :key="order.id" :class="state(index)">
            <OrderMark :state="state(index)" /><span
              ><b>{{ order.title }}</b
              ><span class="small muted"> · {{ order.detail }}</span></span
            ><span class="mono" :title="order.bytes ? exact(order.bytes) : undefined">{{ amount(order, index) }}</span>
          </li>
        </ol>
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
        ><button type="button" class="btn" :disabled="write?.pause_asked" @click="ask('pause')">
          {{ write?.pause_asked ? 'Pausing…' : 'Pause' }}</button
        ><button type="button" class="btn" :disabled="write?.stop_asked" @click="ask('stop')">
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
        <button
          type="button"
          class="btn hold push"
          data-hold
          :disabled="!canBegin || busy"
          @pointerdown="press"
          @pointerup="release"
          @pointerleave="release"
          @contextmenu.prevent
        >
          <i :style="{ width: `${held * 100}%` }" /><span>{{
            write ? 'Hold to go on' : `Hold to overwrite …${view?.target?.label ?? ''}`
          }}</span></button
        ><span class="key">Enter</span>
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
.figures {
  display: grid;
  grid-template-columns: auto 1fr auto;
  gap: 28px;
  align-items: end;
  margin-bottom: 12px;
}
.figures b {
  display: block;
  font-size: 24px;
  line-height: 1.1;
  font-weight: 750;
  font-variant-numeric: tabular-nums;
}
.figures .huge {
  font-size: 46px;
}
.figures span {
  font-size: 13px;
  color: var(--ink2);
}
.figures .last {
  text-align: right;
}
.before {
  display: grid;
  gap: 2px;
  border-left: 5px solid var(--crimson);
  padding: 4px 12px;
  margin-bottom: 14px;
}
.orders {
  list-style: none;
  margin: 6px 0 0;
  padding: 0;
}
.orders li {
  display: grid;
  grid-template-columns: 24px 1fr auto;
  gap: 8px;
  align-items: center;
  padding: 7px 0;
  border-bottom: 1px solid var(--fold);
}
.orders b {
  font-weight: 500;
}
.orders .now b {
  font-weight: 750;
}
.message {
  margin-top: 12px;
}
.digest {
  margin: 8px 0 0;
}
.hold {
  position: relative;
  overflow: hidden;
  background: var(--crimson);
  border-color: var(--crimson);
  color: var(--sheet);
  user-select: none;
  touch-action: none;
}
.hold i {
  position: absolute;
  left: 0;
  top: 0;
  bottom: 0;
  background: var(--ink);
  opacity: 0.55;
}
.hold span {
  position: relative;
}
</style>
