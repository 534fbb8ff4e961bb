<script setup lang="ts">
import { computed } from 'vue'
import type { Mend, StartStep } from '../../api/types'
import { clock } from '../../words/format'
import StateMark from '../common/StateMark.vue'
import { vMay } from '../../words/may'

/** The start-up chain, step by step: what is fine in one line, what is not with its reason and what can be done. */
const props = defineProps<{ steps: StartStep[]; mends: Mend[]; busy: boolean; closed: boolean }>()
const emit = defineEmits<{ mend: [step: StartStep]; undo: [mend: Mend] }>()
const done = computed(() => props.mends.filter((mend) => !mend.undone_at))
const last = computed(() => done.value.at(-1)?.id)
</script>

<template>
  <ol class="scroll" tabindex="0" aria-label="Steps of the start">
    <li v-for="(step, index) in steps" :key="`${step.id}-${index}`" :class="step.state" :title="step.evidence">
      <StateMark :state="step.state" />
      <div>
        <b>{{ step.title }}</b><span class="small muted">{{ step.detail }}</span>
        <div v-if="step.state !== 'ok' && step.remedy" class="remedy small">
          <span>{{ step.remedy }}</span><button
            v-if="step.mend && !closed"
            type="button"
            v-may="'technician'"
            class="btn slim"
            :disabled="busy"
            @click="emit('mend', step)"
          >
            Mend it…
          </button>
        </div>
      </div>
    </li>
  </ol>
  <ul v-if="mends.length" class="mends small" aria-label="Mends">
    <li v-for="mend in mends" :key="mend.id">
      <span :class="{ gone: mend.undone_at }">{{ mend.title }}</span><span class="muted">{{
        mend.undone_at ? `taken back by ${mend.undone_by}` : `${mend.by}, ${clock(mend.at)}`
      }}</span
      ><button
        v-if="mend.id === last && !closed"
        type="button"
        v-may="'technician'"
        class="btn slim"
        :disabled="busy"
        @click="emit('undo', mend)"
      >
        Take back
      </button>
    </li>
  </ul>
</template>

<style scoped>
ol {
  list-style: none;
  margin: 0;
  padding: 0 4px 0 0;
  flex: 1;
  min-height: 0;
}
ol > li {
  display: grid;
  grid-template-columns: 18px 1fr;
  gap: 9px;
  padding: 5px 0;
  border-bottom: 1px solid var(--fold);
  line-height: 1.3;
  overflow-wrap: anywhere;
}
li b {
  font-weight: 700;
  font-size: 14px;
}
li.ok b {
  margin-right: 8px;
  font-weight: 650;
}
li:not(.ok) b,
li:not(.ok) div > .muted {
  display: block;
}
li:not(.ok) {
  background: var(--ochre-l);
  border-radius: 6px;
  padding: 8px;
  margin: 2px 0;
  border-bottom: 0;
}
li.no {
  background: var(--crimson-l);
}
.remedy {
  display: flex;
  gap: 10px;
  align-items: center;
  margin-top: 4px;
  color: var(--ink);
}
.remedy span {
  flex: 1;
}
.mends {
  list-style: none;
  margin: 0;
  padding: 6px 0 0;
  border-top: 1px solid var(--rule);
  max-height: 96px;
  overflow-y: auto;
}
.mends li {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 2px 0;
}
.mends span:first-child {
  flex: 1;
}
.gone {
  text-decoration: line-through;
  color: var(--ink2);
}
</style>
