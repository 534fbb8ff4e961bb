<script setup lang="ts">
import { computed, ref } from 'vue'
import { api } from '../api/client'
import { useLive } from '../api/live'
import type { Docket, Mend, StartStep, StartView, Trial } from '../api/types'
import Checklist from '../parts/dockets/Checklist.vue'
import ComputerAtHand from '../parts/starts/ComputerAtHand.vue'
import Ledger from '../parts/dockets/Ledger.vue'
import MendDialog from '../parts/starts/MendDialog.vue'
import PicturesBeside from '../parts/starts/PicturesBeside.vue'
import ProofDialog from '../parts/bench/ProofDialog.vue'
import SealedFoot from '../parts/dockets/SealedFoot.vue'
import StartChain from '../parts/starts/StartChain.vue'
import StationFrame from '../parts/dockets/StationFrame.vue'
import TrialPane from '../parts/starts/TrialPane.vue'
import Waits from '../parts/dockets/Waits.vue'
import { count } from '../words/format'
import { useStation } from './useStation'
import { vMay } from '../words/may'

const props = defineProps<{ docket: Docket }>()
const emit = defineEmits<{ sealed: [docket: Docket]; changed: [] }>()
const { view, facts, error, busy, load, attempt, seal, breakSeal, row } = useStation<StartView>(
  'start',
  () => props.docket,
  emit,
)
const reason = ref('')
const mending = ref<StartStep | null>(null)
const comparing = ref(false)
const asking = ref(false)
const sealed = computed(() => row().state === 'sealed')
const trial = computed(() => view.value?.trial ?? null)
const trying = computed(() => trial.value !== null && trial.value.state !== 'done')
const reached = computed(() => trial.value?.outcome === 'reached')
const at = computed(() => `/dockets/${props.docket.id}`)
const startable = computed(() =>
  reached.value ? 'seen to start in the emulator' : reason.value.trim() ? '' : 'Not yet seen to start',
)

async function tryStart(wish: object, how: 'trial' | 'turn-on' = 'trial') {
  const started = await attempt(() => api.post<Trial>(`${at.value}/${how}`, wish))
  if (started && view.value) view.value.trial = started
}

const onTrial = (what: 'stop' | 'type', body: object = {}) =>
  attempt(() => api.post(`/trials/${trial.value!.id}/${what}`, body))

async function readAgain() {
  await attempt(() => api.post(`${at.value}/chain`))
  await load()
}

async function order(boot_order: string[]) {
  await attempt(() => api.post(`/bench/computers/${encodeURIComponent(view.value!.at_hand!.name)}`, { boot_order }))
  await readAgain()
}

async function out(port: string) {
  await attempt(() => api.post(`/bench/ports/${port}/pull`))
  await readAgain()
}

async function mended() {
  mending.value = null
  await load()
}

async function undo(mend: Mend) {
  await attempt(() => api.post(`${at.value}/mends/${mend.id}/undo`))
  await load()
}

async function doesNotStart() {
  await seal({ outcome: 'does not start', reason: reason.value })
  reason.value = ''
}

useLive({
  trial: (next) => {
    if (
      view.value &&
      (next.id === view.value.trial?.id ||
        (next.docket_id === props.docket.id && next.state !== 'done' && !trying.value))
    )
      view.value.trial = next
  },
})
</script>

<template>
  <StationFrame
    title="Prove that it starts"
    :sub="
      view?.compared
        ? `The disk was read back: ${count(view.compared)} of ${count(view.compared)} clusters match`
        : undefined
    "
    :error="error"
    :loading="!view"
    fixed
  >
    <Waits v-if="view?.waits_for" :for="view.waits_for" :docket="docket.id" />
    <div v-else-if="view" class="grid">
      <section aria-label="Start-up chain">
        <h3>What {{ view.computer }} will do <span class="small muted">read off the disk, step by step</span></h3>
        <StartChain
          v-if="view.check"
          :steps="view.check.steps"
          :mends="view.mends"
          :busy="busy || trying"
          :closed="sealed"
          @mend="mending = $event"
          @undo="undo"
        />
        <div v-else class="empty">
          The chain has not been read yet.<button v-may="'technician'" type="button" class="btn" @click="readAgain">
            Read it
          </button>
        </div>
      </section>
      <section aria-label="Trial start">
        <TrialPane
          :trial="trial"
          :view="view"
          :busy="busy"
          :closed="sealed"
          @start="tryStart"
          @stop="onTrial('stop')"
          @type="onTrial('type', { text: $event })"
          @keys="onTrial('type', { keys: $event })"
          @compare="comparing = true"
          @ask="asking = true"
        />
        <ComputerAtHand
          v-if="view.at_hand && !sealed && !view.trial_missing"
          :computer="view.at_hand"
          :busy="busy"
          :trying="trying"
          @order="order"
          @out="out"
          @on="tryStart({}, 'turn-on')"
        />
        <label v-if="!sealed && !reached && !trying" class="field"
          >Seen at the computer itself? Say what<input
            v-model="reason"
            maxlength="200"
            placeholder="Log-in on its own screen, by …"
        /></label>
      </section>
    </div>
    <MendDialog :step="mending" :docket="docket.id" @done="mended" @closed="mending = null" />
    <template v-if="view"
      ><PicturesBeside v-model="comparing" :pictures="view.pictures" /><ProofDialog
        v-model="asking"
        :proof="view.proof"
        :hardware="view.hardware"
        :docket="docket.id"
        :computer="view.computer"
        @kept="view = $event"
    /></template>
    <template #foot>
      <SealedFoot v-if="sealed" :row="row()" @break="breakSeal" />
      <template v-else-if="!view?.waits_for">
        <button v-may="'technician'" type="button" class="btn" :disabled="busy" @click="readAgain">
          Read the chain again
        </button>
        <button
          v-if="!reached && reason.trim()"
          type="button"
          v-may="'technician'"
          class="btn"
          :disabled="busy || trying"
          @click="doesNotStart"
        >
          It does not start
        </button>
        <span class="push small muted">{{ startable }}</span>
        <button
          type="button"
          v-may="'technician'"
          class="btn go"
          :data-main="reached ? '' : undefined"
          :disabled="busy || trying || (!reached && !reason.trim())"
          @click="seal({ reason })"
        >
          Sign off: {{ docket.computer }} starts</button
        ><span class="key">Enter</span>
      </template>
    </template>
  </StationFrame>
  <Ledger title="Proof" :facts="facts"
    ><Checklist
      v-if="view?.checklist.length"
      :items="view.checklist"
      :docket="docket.id"
      :closed="sealed"
      @changed="view!.checklist = $event"
  /></Ledger>
</template>

<style scoped>
.grid {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 22px;
  flex: 1;
  min-height: 0;
  padding-bottom: 10px;
}
h3 {
  font-size: 15px;
  font-weight: 700;
}
h3 span {
  font-weight: 400;
}
section {
  display: flex;
  flex-direction: column;
  gap: 6px;
  min-height: 0;
}
.empty {
  padding: 16px;
}
@media (max-width: 700px) {
  .grid {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
