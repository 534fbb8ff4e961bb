<script setup lang="ts">
import { computed } from 'vue'
import type { Trial } from '../../api/types'
import { vMay } from '../../words/may'
import Milestones from '../common/Milestones.vue'

/** A start in the emulator, and what was seen of the last one. Without one, the slot says what else there is to say. */
const props = defineProps<{ trial: Trial | null; disabled: boolean }>()
defineEmits<{ try: [] }>()
const running = computed(() => !!props.trial && props.trial.state !== 'done')
</script>

<template>
  <button v-may="'technician'" type="button" class="btn" :disabled="disabled || running" @click="$emit('try')">
    Try starting it
  </button>
  <Milestones :percent="0" :step="running ? 'Starting in the emulator' : (trial?.message ?? '')" :running="running" />
  <span v-if="running" class="small">Starting in the emulator… {{ Math.round(trial?.seconds ?? 0) }} s</span>
  <a v-else-if="trial?.picture" class="shot small" :href="trial.picture" target="_blank" rel="noopener"
    ><img :src="trial.picture" :alt="`Screen of the trial start: ${trial.message}`" />{{ trial.message }}</a
  >
  <span v-else-if="trial?.message" class="small">{{ trial.message }}</span>
  <span v-else class="small muted"><slot>Starting it in the emulator writes to no disk</slot></span>
</template>

<style scoped>
.shot {
  display: flex;
  gap: 10px;
  align-items: center;
  min-width: 0;
}
.shot img {
  height: 40px;
  border-radius: 4px;
  border: 1px solid var(--rule);
}
</style>
