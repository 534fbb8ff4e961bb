<script setup lang="ts">
import { computed, useId } from 'vue'
import type { Part } from '../api/types'
import { bytes, roleName } from '../words/format'
import { stack, usedHeight } from './heights'

/** The upright drawing of a disk: its parts from first to last, used against free. */
const props = withDefaults(
  defineProps<{
    parts: Part[]
    size: number
    width?: number
    height: number
    lost?: boolean
    /** Parts written so far, by number, from 0 to 1; without it everything is there. */
    written?: Record<string, number>
    label?: string
    /** Of a core that is lost: what stays all the same, by number. */
    stays?: (number | null)[]
  }>(),
  { width: 22 },
)
const id = useId()
const drawn = computed(() => stack(props.parts, props.size, props.height - 2))
const radius = computed(() => Math.min(13, props.width / 3))
const words = computed(
  () =>
    `${props.label ?? 'Disk'}, ${bytes(props.size)}: ` +
    (props.parts
      .map((part) => `${part.name || part.volume.label || roleName(part.role)} ${bytes(part.size_bytes)}`)
      .join(', ') || 'empty'),
)
const goes = (part: { role: string; number: number | null }) =>
  props.lost && part.role !== 'free' && !props.stays?.includes(part.number)
const share = (number: number | null) => (props.written ? (props.written[String(number)] ?? 0) : 1)
</script>

<template>
  <svg :width="width" :height="height" :viewBox="`0 0 ${width} ${height}`" role="img" :aria-label="words" class="core">
    <defs>
      <clipPath :id="`${id}c`"><rect x="1" y="1" :width="width - 2" :height="height - 2" :rx="radius" /></clipPath>
      <pattern :id="`${id}d`" width="7" height="7" patternUnits="userSpaceOnUse">
        <circle class="dot" cx="2" cy="2" r="1" />
      </pattern>
      <pattern :id="`${id}l`" width="9" height="9" patternUnits="userSpaceOnUse" patternTransform="rotate(45)">
        <rect class="lost" width="1.8" height="9" />
      </pattern>
    </defs>
    <g :clip-path="`url(#${id}c)`">
      <g
        v-for="part in drawn"
        :key="part.key"
        :transform="`translate(0 ${part.top + 1})`"
        :class="{ faded: goes(part) }"
      >
        <rect :width="width" :height="part.height" :class="`r-${part.role}`" />
        <rect v-if="part.role === 'free'" :width="width" :height="part.height" :fill="`url(#${id}d)`" />
        <rect v-else class="air" :y="usedHeight(part)" :width="width" :height="part.height - usedHeight(part)" />
        <template v-if="written && part.role !== 'free' && share(part.number) < 1">
          <rect
            class="ahead"
            :y="share(part.number) * part.height"
            :width="width"
            :height="(1 - share(part.number)) * part.height"
          />
          <rect
            :y="share(part.number) * part.height"
            :width="width"
            :height="(1 - share(part.number)) * part.height"
            :fill="`url(#${id}d)`"
          />
          <rect
            v-if="share(part.number) > 0"
            class="front"
            :y="share(part.number) * part.height - 4"
            :width="width"
            height="7"
          />
        </template>
        <rect v-if="goes(part)" :width="width" :height="part.height" :fill="`url(#${id}l)`" />
        <title>
          {{ part.name || roleName(part.role) }}, {{ bytes(part.size)
          }}{{ part.used ? `, ${bytes(part.used)} used` : '' }}
        </title>
        <rect v-if="part.top > 0" class="seam" y="-1" :width="width" height="2" />
      </g>
    </g>
    <rect class="edge" :class="{ pale: lost }" x="1" y="1" :width="width - 2" :height="height - 2" :rx="radius" />
  </svg>
</template>

<style scoped>
.core {
  display: block;
  flex: none;
}
.ahead {
  fill: var(--sheet);
  opacity: 0.62;
}
.front {
  fill: var(--ember);
}
.lost {
  fill: var(--crimson);
  opacity: 0.5;
}
.edge {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.3;
}
.edge.pale {
  stroke: var(--edge);
}
.faded > :not(title) {
  opacity: 0.6;
}
</style>
