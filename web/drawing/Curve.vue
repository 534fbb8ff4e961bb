<script setup lang="ts">
import { computed } from 'vue'
import { speed } from '../words/format'

/** Speed over time, from the first measurement to now. */
const props = defineProps<{ values: number[]; from: string; to: string }>()
const WIDTH = 560
const HEIGHT = 62
const top = computed(() => Math.max(...props.values) * 1.15)
const points = computed(() =>
  props.values
    .map((value, index) => `${(index / (props.values.length - 1)) * WIDTH},${HEIGHT - (value / top.value) * HEIGHT}`)
    .join(' '),
)
</script>

<template>
  <figure>
    <svg
      :viewBox="`0 0 ${WIDTH} ${HEIGHT + 2}`"
      preserveAspectRatio="none"
      role="img"
      :aria-label="`Speed, at most ${speed(Math.max(...values))}`"
    >
      <polyline :points="points" />
    </svg>
    <figcaption class="small muted">
      <span>{{ from }}</span><span>{{ to }}</span>
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0 0 8px;
}
svg {
  width: 100%;
  height: 64px;
  display: block;
  border-bottom: 1px solid var(--rule);
}
polyline {
  fill: none;
  stroke: var(--spruce);
  stroke-width: 2;
  vector-effect: non-scaling-stroke;
}
figcaption {
  display: flex;
  justify-content: space-between;
}
</style>
