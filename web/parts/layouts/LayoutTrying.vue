<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import { useLive } from '../../api/live'
import type { LayoutTry, LayoutView, Trial } from '../../api/types'
import { bytes, clock } from '../../words/format'
import { percentOf } from '../../words/progress'
import Milestones from '../common/Milestones.vue'
import StandsStill from '../common/StandsStill.vue'
import StateMark from '../common/StateMark.vue'
import { vMay } from '../../words/may'

/** A dry run of the layout on a throw-away file: what outside tools say of it, and a trial start. */
const props = defineProps<{ view: LayoutView; docket: number }>()
const emit = defineEmits<{ changed: [] }>()
const open = defineModel<boolean>({ required: true })
const error = ref('')
const tried = computed(() => props.view.try ?? null)
const running = computed(() => !!tried.value && ['queued', 'running'].includes(tried.value.state))
/** It was of another layout than the one on the page. */
const old = computed(() => !!tried.value && tried.value.digest !== props.view.digest)
const trial = computed(() => tried.value?.trial ?? null)
const starting = computed(() => !!trial.value && trial.value.state !== 'done')
const wrong = computed(() => (tried.value?.facts ?? []).filter((fact) => fact.state === 'no').length)
const doing = computed(() => {
  if (tried.value?.state === 'queued') return 'Waiting for a free worker'
  const order = tried.value?.progress?.order ?? ''
  if (order === 'judge') return 'Outside tools look at it'
  return order.startsWith('prepare') ? 'Resizing in the scratch room' : 'Carrying out'
})
const words = computed(() => {
  const progress = tried.value?.progress
  return progress?.total && progress.order !== 'judge'
    ? `${doing.value}, ${bytes(progress.done ?? 0)} of ${bytes(progress.total)}`
    : `${doing.value}…`
})

async function attempt(path: string) {
  error.value = ''
  try {
    await api.post<LayoutTry | Trial>(path)
  } catch (problem) {
    error.value = errorText(problem)
  }
  emit('changed')
}
useLive({
  layout_try: (next) => {
    if (next.docket_id === props.docket) emit('changed')
  },
  trial: (next) => {
    if (starting.value && next.id === trial.value?.id) emit('changed')
  },
})
</script>

<template>
  <Dialog v-model:visible="open" modal header="Try the plan" :style="{ width: '640px' }" dismissable-mask>
    <p class="small">
      Every order is carried out on a throw-away file as large as the target. The target itself is not touched.
    </p>
    <div v-if="!tried || (!running && (old || tried.state !== 'done'))" class="line">
      <button
        v-may="'technician'"
        type="button"
        class="btn go"
        :disabled="!view.valid"
        @click="attempt(`/dockets/${docket}/layout/try`)"
      >
        {{ tried ? 'Try it again' : 'Try it' }}
      </button>
      <span v-if="tried && old" class="small muted"
        >The last dry run, at {{ clock(tried.at) }}, was of another layout.</span
      >
      <span v-else-if="tried?.state === 'stopped'" class="small muted">The last dry run was stopped.</span>
    </div>
    <div v-if="running" class="line">
      <progress
        :max="tried!.progress?.total || 1"
        :value="tried!.progress?.total ? tried!.progress.done : undefined"
      /><span class="small">{{ words }}</span
      ><button
        type="button"
        v-may="'technician'"
        class="btn slim push"
        :disabled="tried!.stop_asked"
        @click="attempt(`/layout-tries/${tried!.id}/stop`)"
      >
        Stop
      </button>
    </div>
    <Milestones
      v-if="tried"
      :percent="percentOf(tried.progress)"
      :step="running ? doing : (tried.error ?? 'The dry run is over')"
      :running="running"
    />
    <StandsStill v-if="tried" :work="`layout_try-${tried.id}`" :running="tried.state === 'running'" />
    <p v-if="tried?.error" class="message" role="alert">{{ tried.error }}</p>
    <template v-if="tried?.state === 'done' && !old">
      <p class="line">
        <b>{{
          wrong ? `${wrong} of ${tried.facts.length} judges find fault` : `All ${tried.facts.length} judges are content`
        }}</b><span class="small muted">{{ clock(tried.at) }}, {{ tried.by }}</span>
      </p>
      <ul class="facts">
        <li v-for="fact in tried.facts" :key="fact.id">
          <StateMark :state="fact.state" />
          <div>
            {{ fact.title }}<small>{{ fact.detail }}</small>
          </div>
        </li>
      </ul>
      <div v-if="tried.startable" class="line">
        <button
          type="button"
          class="btn slim"
          :disabled="starting"
          @click="attempt(`/layout-tries/${tried!.id}/trial`)"
        >
          {{ starting ? 'Starting…' : trial ? 'Start it again' : 'Start it in the emulator' }}
        </button>
        <span v-if="starting" class="small">{{ trial!.lines.at(-1) ?? 'The emulator begins' }}</span>
        <span v-else-if="trial" class="small" role="status"
          ><StateMark :state="trial.outcome === 'reached' ? 'ok' : 'no'" /> {{ trial.message }}</span
        >
        <span v-else class="small muted">A full rehearsal: the layout, and that it starts</span>
      </div>
    </template>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
  </Dialog>
</template>

<style scoped>
.line {
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 10px 0;
  min-width: 0;
}
.line span {
  min-width: 0;
  overflow: hidden;
  text-overflow: ellipsis;
  display: flex;
  gap: 6px;
  align-items: center;
}
progress {
  width: 200px;
  accent-color: var(--ember);
}
.facts {
  list-style: none;
  margin: 0;
  padding: 0;
  max-height: 300px;
  overflow-y: auto;
}
.facts li {
  display: grid;
  grid-template-columns: 20px 1fr;
  gap: 6px;
  padding: 6px 0;
  border-bottom: 1px solid var(--fold);
  font-size: 14px;
  overflow-wrap: anywhere;
}
small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
}
</style>
