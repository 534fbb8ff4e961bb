<script setup lang="ts">
import { computed } from 'vue'
import type { Unplug } from '../../api/types'

/** The proof by unplugging, as it stands. */
const props = defineProps<{ check: Unplug; now: number }>()
defineEmits<{ giveUp: [] }>()
const left = computed(() => Math.max(0, Math.ceil((Date.parse(props.check.ends_at) - props.now) / 1000)))
const words = computed(
  () =>
    ({
      waiting: `Pull the drive out of port ${props.check.port} now: ${left.value} s`,
      away: `Port ${props.check.port} went empty. Plug the same drive in again, in any port: ${left.value} s`,
      passed: `The drive that you pulled came back in port ${props.check.port}: proved`,
      void: `Does not count: ${props.check.reason}`,
    })[props.check.state],
)
</script>

<template>
  <div class="unplug" :class="check.state" role="status">
    <span class="steps" aria-hidden="true"
      ><i :class="{ done: check.state !== 'waiting' }" /><i :class="{ done: check.state === 'passed' }"
    /></span>
    <span>{{ words }}</span>
    <button
      v-if="check.state === 'waiting' || check.state === 'away'"
      type="button"
      class="btn slim push"
      @click="$emit('giveUp')"
    >
      Give it up
    </button>
  </div>
</template>

<style scoped>
.unplug {
  display: flex;
  gap: 10px;
  align-items: center;
  font-size: 14px;
  min-height: 38px;
  flex: 1;
}
.passed {
  color: var(--spruce);
  font-weight: 650;
}
.void {
  color: var(--crimson);
}
.steps {
  display: flex;
  gap: 4px;
}
.steps i {
  width: 14px;
  height: 14px;
  border: 2px solid var(--ink2);
  border-radius: 3px;
}
.steps i.done {
  background: var(--spruce);
  border-color: var(--spruce);
}
</style>
