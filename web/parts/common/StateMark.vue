<script setup lang="ts">
import type { State } from '../../api/types'

// A shape for every state, so that colour never speaks alone: round, diamond, square.
defineProps<{ state: State }>()
const words = { ok: 'fine', ask: 'look at this', no: 'not good' }
const signs = { ok: '✓', ask: '!', no: '×' }
</script>

<template>
  <span class="mark" :class="state" role="img" :aria-label="words[state]"
    ><span aria-hidden="true">{{ signs[state] }}</span></span
  >
</template>

<style scoped>
.mark {
  flex: none;
  width: 16px;
  height: 16px;
  display: grid;
  place-content: center;
  font-weight: 800;
  font-size: 11px;
  line-height: 1;
  color: var(--sheet);
  margin-top: 1px;
}
.ok {
  border-radius: 50%;
  background: var(--spruce);
}
.ask {
  border-radius: 3px;
  background: var(--ochre);
  transform: rotate(45deg);
}
.ask span {
  transform: rotate(-45deg);
}
.no {
  border-radius: 2px;
  background: var(--crimson);
}
</style>
