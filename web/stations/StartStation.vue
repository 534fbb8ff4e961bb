<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { Docket, StartView, Trial } from '../api/types'
import Ledger from '../parts/Ledger.vue'
import SealedFoot from '../parts/SealedFoot.vue'
import StateMark from '../parts/StateMark.vue'
import StationFrame from '../parts/StationFrame.vue'
import Waits from '../parts/Waits.vue'
import { clock, count } from '../words/format'
import { useStation } from './useStation'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, load, attempt, seal, breakSeal, row } = useStation<StartView>('start', () => props.docket, emit)
const reason = ref('')
const sealed = computed(() => row().state === 'sealed')
const trial = computed(() => view.value?.trial ?? null)
const trying = computed(() => trial.value !== null && trial.value.state !== 'done')
const reached = computed(() => trial.value?.outcome === 'reached')

async function tryStart() {
  const started = await attempt(() => api.post<Trial>(`/dockets/${props.docket.id}/trial`))
  if (started && view.value) view.value.trial = started
}

async function stopTrial() {
  if (trial.value) await attempt(() => api.post(`/trials/${trial.value!.id}/stop`))
}

async function readAgain() {
  await attempt(() => api.post(`/dockets/${props.docket.id}/chain`))
  await load()
}

useLive({ trial: (next) => { if (view.value && next.id === view.value.trial?.id) view.value.trial = next } })
</script>

<template>
  <StationFrame title="Prove that it starts" :sub="view?.compared ? `The disk was read back: ${count(view.compared)} of ${count(view.compared)} clusters match` : undefined" :error="error" :loading="!view">
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view" class="grid">
      <section aria-label="Start-up chain">
        <h3>What the computer will do</h3>
        <p class="small muted">Read from the restored disk, step by step, as {{ view.computer }}’s firmware would</p>
        <ol v-if="view.check">
          <li v-for="step in view.check.steps" :key="step.id" :title="step.evidence"><StateMark :state="step.state" /><div><b>{{ step.title }}</b><span class="small muted">{{ step.detail }}</span></div></li>
        </ol>
        <div v-else class="empty">The chain has not been read yet.<button type="button" class="btn" @click="readAgain">Read it</button></div>
      </section>
      <section aria-label="Trial start">
        <h3>Trial start</h3>
        <p class="small muted">In an emulator, on a throw-away overlay: the disk stays as written</p>
        <a v-if="trial?.picture" :href="trial.picture" target="_blank" rel="noopener" class="screen"><img :src="trial.picture" :alt="`Screen of the trial start: ${trial.message}`"></a>
        <pre v-else class="screen" tabindex="0" aria-label="Serial line">{{ trying ? trial?.lines.slice(-11).join('\n') || 'The firmware begins…' : 'Not tried yet' }}</pre>
        <pre v-if="trial?.picture && trial.lines.length" class="tail" tabindex="0" aria-label="Last lines of the serial line">{{ trial.lines.slice(-2).join('\n') }}</pre>
        <div class="outcome" aria-live="polite">
          <span v-if="trying" class="chip">{{ trial?.state === 'queued' ? 'Waiting for the worker' : `Starting, ${Math.round(trial?.seconds ?? 0)} s` }}</span>
          <span v-else-if="trial" class="chip" :class="reached ? 'ok' : 'no'">{{ reached ? `Log-in prompt after ${trial.seconds?.toFixed(1)} s` : 'No log-in prompt' }}</span>
          <span v-if="trial && !trying" class="small muted">{{ clock(trial.at) }}{{ trial.picture ? ', picture kept' : '' }}</span>
          <button v-if="trying" type="button" class="btn slim push" @click="stopTrial">Stop it</button>
          <button v-else-if="!view.trial_missing" type="button" class="btn slim push" :data-main="!reached && !sealed ? '' : undefined" @click="tryStart">{{ trial ? 'Again' : 'Try starting it' }}</button>
        </div>
        <p v-if="trial && !trying && !reached" class="small">{{ trial.message }}</p>
        <p v-if="view.trial_missing" class="message ask">{{ view.trial_missing }}. Everything else works without it.</p>
        <label v-if="!sealed && !reached && !trying" class="field">Seen to start in another way? Say where<input v-model="reason" maxlength="200" placeholder="On the computer itself, by …"></label>
      </section>
    </div>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" @break="breakSeal" />
      <template v-else-if="!view?.waits_for">
        <button type="button" class="btn" @click="readAgain">Read the chain again</button>
        <span class="push small muted">{{ reached || reason.trim() ? '' : 'Not yet seen to start' }}</span>
        <button type="button" class="btn go" :data-main="reached ? '' : undefined" :disabled="busy || trying || (!reached && !reason.trim())" @click="seal({ reason })">Sign off: {{ docket.computer }} starts</button><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger title="Proof, and after the first start" :facts="facts" />
</template>

<style scoped>
.grid { display: grid; grid-template-columns: minmax(0, 1fr) minmax(0, 1.05fr); gap: 22px; }
h3 { font-size: 15px; font-weight: 700; }
ol { list-style: none; margin: 6px 0 0; padding: 0; }
li { display: grid; grid-template-columns: 18px 1fr; gap: 10px; padding: 8px 0; border-bottom: 1px solid var(--fold); line-height: 1.3; overflow-wrap: anywhere; }
li b, li span { display: block; }
li b { font-weight: 700; }
section { display: flex; flex-direction: column; gap: 6px; }
.screen { display: block; margin: 2px 0 0; background: var(--screen); border-radius: 9px; overflow: hidden; height: 230px; }
/* The corner where a start ends; the whole picture opens on its own. */
.screen { position: relative; }
.screen img { position: absolute; left: 0; bottom: 0; width: 175%; display: block; }
pre { font-family: var(--mono); font-size: 12px; line-height: 1.5; color: var(--on-screen); white-space: pre-wrap; overflow-wrap: anywhere; }
pre.screen { padding: 12px; overflow-y: auto; }
.tail { margin: 0; background: var(--screen); border-radius: 7px; padding: 8px 12px; max-height: 96px; overflow-y: auto; }
.outcome { display: flex; gap: 10px; align-items: center; margin-top: 4px; min-height: 34px; }
.empty { padding: 16px; }
</style>
