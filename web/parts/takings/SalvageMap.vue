<script setup lang="ts">
import { computed } from 'vue'
import type { Part } from '../../api/types'
import { stack } from '../../drawing/heights'
import { bytes } from '../../words/format'

/** Where a failing drive has not been read, beside its core and at the same heights. */
const props = defineProps<{ parts: Part[]; size: number; height: number; ranges: (number | string)[][] }>()
const drawn = computed(() => stack(props.parts, props.size, props.height - 2))
/** Height of a byte, within the part in which it lies. */
function at(offset: number): number {
  const part = [...drawn.value].reverse().find((one) => one.start <= offset) ?? drawn.value[0]
  if (!part) return 0
  return part.top + Math.min(1, (offset - part.start) / part.size) * part.height
}
const marks = computed(() =>
  props.ranges.map(([offset, length, state]) => {
    const top = at(Number(offset))
    return {
      top,
      height: Math.max(3, at(Number(offset) + Number(length)) - top),
      state: String(state),
      length: Number(length),
    }
  }),
)
</script>

<template>
  <svg :width="16" :height="height" role="img" aria-label="Where it has not been read">
    <rect class="edge" x="0.5" y="0.5" width="15" :height="height - 1" rx="4" />
    <g v-for="mark in marks" :key="mark.top + mark.state">
      <rect v-if="mark.state === 'bad'" class="bad" x="1" :y="mark.top" width="14" :height="mark.height">
        <title>{{ bytes(mark.length) }} cannot be read</title>
      </rect>
      <rect v-else class="skipped" x="5" :y="mark.top" width="6" :height="mark.height">
        <title>{{ bytes(mark.length) }} left behind, asked for again later</title>
      </rect>
    </g>
  </svg>
</template>

<style scoped>
.edge {
  fill: var(--fold);
  stroke: var(--rule);
}
.bad {
  fill: var(--crimson);
}
.skipped {
  fill: var(--ochre);
}
</style>
