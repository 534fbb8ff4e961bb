<script setup lang="ts">
defineProps<{ state: 'done' | 'now' | 'ahead' | 'failed' | 'held' }>()
const words = { done: 'done', now: 'running', ahead: 'to come', failed: 'failed here', held: 'stopped here' }
</script>

<template>
  <span class="mark" :class="state" role="img" :aria-label="words[state]"
    ><span aria-hidden="true">{{ state === 'done' ? '✓' : state === 'failed' ? '×' : '' }}</span></span
  >
</template>

<style scoped>
.mark {
  width: 16px;
  height: 16px;
  border-radius: 50%;
  display: grid;
  place-content: center;
  font-size: 11px;
  font-weight: 800;
  line-height: 1;
  color: var(--sheet);
}
.done {
  background: var(--spruce);
}
.ahead {
  border: 1.5px solid var(--edge);
}
.now {
  border: 3px solid var(--ember);
  border-right-color: transparent;
  animation: turn 1.2s linear infinite;
}
.held {
  border: 3px double var(--ochre);
}
.failed {
  background: var(--crimson);
  border-radius: 2px;
}
@keyframes turn {
  to {
    transform: rotate(1turn);
  }
}
</style>
