<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue'
import type { StartView, Trial } from '../../api/types'
import { clock } from '../../words/format'
import { vMay } from '../../words/may'
import StandsStill from '../common/StandsStill.vue'

/** A trial start as it runs: its screen, what it says, milestones, and what somebody types. */
const props = defineProps<{ trial: Trial | null; view: StartView; busy: boolean; closed: boolean }>()
const emit = defineEmits<{
  start: [wish: object]
  stop: []
  type: [text: string]
  keys: [keys: string[]]
  compare: []
  ask: []
}>()
const NAMES = { nvme: 'NVMe', sata: 'SATA', virtio: 'virtio' } as const
const KEYS = [
  ['Enter', ['ret']],
  ['Esc', ['esc']],
  ['F2', ['f2']],
  ['F12', ['f12']],
  ['↑', ['up']],
  ['↓', ['down']],
  ['Ctrl Alt Del', ['ctrl', 'alt', 'delete']],
] as const
const side = ref<'screen' | 'line'>('screen')
const controller = ref('')
const beside = ref(false)
const line = ref('')
const terminal = ref<HTMLElement | null>(null)
const trying = computed(() => props.trial !== null && props.trial.state !== 'done')
const running = computed(() => props.trial?.state === 'running')
const reached = computed(() => props.trial?.outcome === 'reached')
const shown = computed(() => (side.value === 'screen' && props.trial?.picture ? 'screen' : 'line'))
const text = computed(() => props.trial?.text || (trying.value ? 'The firmware begins…' : 'Not tried yet'))
const asks = computed(() => running.value && props.trial?.waits === 'passphrase')
const passed = computed(() => props.trial?.milestones ?? [])

watch(
  text,
  async () => {
    await nextTick()
    if (terminal.value) terminal.value.scrollTop = terminal.value.scrollHeight
  },
  { immediate: true },
)

function start() {
  emit('start', {
    ...(controller.value ? { controller: controller.value } : {}),
    ...(beside.value ? { attached: true } : {}),
  })
}

function send() {
  emit('type', `${line.value}\n`)
  line.value = ''
}
</script>

<template>
  <div class="tabs" role="group" aria-label="What is shown">
    <button type="button" :aria-pressed="shown === 'screen'" :disabled="!trial?.picture" @click="side = 'screen'">
      Screen</button
    ><button type="button" :aria-pressed="shown === 'line'" @click="side = 'line'">Text</button>
    <span v-if="trial" class="small muted push"
      >{{ trial.kind === 'computer' ? `${view.computer} turned on` : 'Trial start' }}, {{ trial.technician }},
      {{ clock(trial.at) }}</span
    >
  </div>
  <a v-if="shown === 'screen'" :href="trial!.picture!" target="_blank" rel="noopener" class="screen"
    ><img :src="trial!.picture!" :alt="`Screen of the trial start: ${trial!.message ?? 'running'}`"
  /></a>
  <pre v-else ref="terminal" class="screen" tabindex="0" aria-label="Text of its serial line, or its screen">{{
    text
  }}</pre>
  <form v-if="running" class="typing" @submit.prevent="send">
    <input
      v-model="line"
      class="mono"
      :class="{ asks }"
      maxlength="500"
      :type="asks ? 'password' : 'text'"
      autocomplete="off"
      :aria-label="asks ? 'Passphrase of the encrypted volume' : 'Type to it'"
      :placeholder="asks ? 'It waits for a passphrase' : 'Type to it'"
    /><button v-may="'technician'" type="submit" class="btn slim">Send</button
    ><button
      v-for="[name, keys] in KEYS"
      :key="name"
      v-may="'technician'"
      type="button"
      class="key"
      :title="`Press ${name} on its keyboard`"
      @click="emit('keys', [...keys])"
    >
      {{ name }}
    </button>
  </form>
  <ol v-if="passed.length" class="milestones" aria-label="Milestones">
    <li v-for="one in passed" :key="one.id" :class="{ passed: one.seconds !== null }">
      <span class="dot" aria-hidden="true" />{{ one.title
      }}<small>{{ one.seconds === null ? '–' : `${one.seconds.toFixed(1)} s` }}</small>
    </li>
  </ol>
  <div class="outcome" aria-live="polite">
    <span v-if="trying" class="chip">{{
      trial?.state === 'queued' ? 'Waiting for the worker' : `Starting, ${Math.round(trial?.seconds ?? 0)} s`
    }}</span>
    <template v-else-if="trial"
      ><span class="chip" :class="reached ? 'ok' : 'no'">{{ reached ? 'Seen to start' : 'Not seen to start' }}</span
      ><span class="small">{{ trial.message }}</span></template
    >
    <span v-if="asks" class="small"
      >It waits for the passphrase of an encrypted volume; what you type goes to it, and is not kept</span
    >
    <StandsStill v-if="trial" :work="`trial-${trial.id}`" :running="running" />
    <button v-if="trying" v-may="'technician'" type="button" class="btn slim push" @click="emit('stop')">
      Stop it
    </button>
  </div>
  <div v-if="!trying && !view.trial_missing && !closed" class="how">
    <label class="small"
      >Disk on
      <select v-model="controller" aria-label="Controller">
        <option value="">its own ({{ NAMES[view.controller as keyof typeof NAMES] ?? 'NVMe' }})</option>
        <option v-for="(name, id) in NAMES" :key="id" :value="id">{{ name }}</option>
      </select></label
    >
    <label class="small"><input v-model="beside" type="checkbox" /> all that is plugged in</label>
    <button
      v-may="'technician'"
      type="button"
      class="btn slim push"
      :class="{ go: !trial }"
      :data-main="!reached ? '' : undefined"
      :disabled="busy"
      @click="start"
    >
      {{ trial ? 'Start it again' : 'Try starting it' }}
    </button>
  </div>
  <div class="links small">
    <button v-may="'technician'" type="button" @click="emit('ask')">
      {{
        view.proof.command ? `Asked then: ${view.proof.command}` : 'Ask it something when it has started…'
      }}</button><button v-if="view.pictures.length > 1" type="button" @click="emit('compare')">
      Lay {{ view.pictures.length }} pictures side by side
    </button>
  </div>
  <p v-if="view.trial_missing" class="message ask">{{ view.trial_missing }}. Everything else works without it.</p>
</template>

<style scoped>
.tabs {
  display: flex;
  align-items: center;
  gap: 0;
}
.tabs button {
  border: 1px solid var(--rule);
  background: var(--sheet);
  padding: 3px 12px;
  font-size: 13px;
  font-weight: 650;
  color: var(--ink2);
  cursor: pointer;
}
.tabs button:first-child {
  border-radius: 6px 0 0 6px;
}
.tabs button:nth-child(2) {
  border-radius: 0 6px 6px 0;
  border-left: 0;
}
.tabs button[aria-pressed='true'] {
  background: var(--ink);
  color: var(--sheet);
}
.tabs button:disabled {
  cursor: not-allowed;
}
.screen {
  display: block;
  position: relative;
  margin: 0;
  background: var(--screen);
  border-radius: 9px;
  overflow: hidden;
  flex: 1;
  min-height: 150px;
}
/* The corner where a start ends; the whole picture opens on its own. */
.screen img {
  position: absolute;
  left: 0;
  bottom: 0;
  width: 165%;
  display: block;
}
pre.screen {
  font-family: var(--mono);
  font-size: 12px;
  line-height: 1.45;
  color: var(--on-screen);
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  padding: 10px 12px;
  overflow-y: auto;
}
.typing {
  display: flex;
  flex-wrap: wrap;
  gap: 5px;
  align-items: center;
}
.typing input {
  flex: 1;
  min-width: 260px;
  padding: 3px 8px;
  font-size: 13px;
}
.typing input.asks {
  border-color: var(--ochre);
}
.typing .key {
  cursor: pointer;
  white-space: nowrap;
}
.milestones {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  font-size: 12px;
  color: var(--ink2);
}
.milestones li {
  position: relative;
  padding-top: 13px;
  border-top: 2px solid var(--fold);
  margin-top: 6px;
  line-height: 1.2;
}
.milestones li.passed {
  border-color: var(--spruce);
  color: var(--ink);
}
.dot {
  position: absolute;
  left: 0;
  top: -6px;
  width: 10px;
  height: 10px;
  border-radius: 50%;
  border: 2px solid var(--edge);
  background: var(--sheet);
}
.passed .dot {
  background: var(--spruce);
  border-color: var(--spruce);
}
small {
  display: block;
  font-variant-numeric: tabular-nums;
}
.outcome {
  display: flex;
  gap: 10px;
  align-items: center;
  min-height: 28px;
}
.how {
  display: flex;
  gap: 12px;
  align-items: center;
  flex-wrap: wrap;
}
select {
  padding: 3px 4px;
  font-size: 13px;
  max-width: 190px;
}
.links {
  display: flex;
  gap: 16px;
}
.links button {
  border: 0;
  background: none;
  padding: 0;
  color: var(--ink2);
  text-decoration: underline;
  cursor: pointer;
  text-align: left;
  overflow-wrap: anywhere;
}
</style>
