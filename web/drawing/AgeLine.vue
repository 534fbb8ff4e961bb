<script setup lang="ts">
import { computed } from 'vue'
import type { ReadinessRow } from '../api/types'
import { moment } from '../words/format'
import { AGES, ageScale } from './ageScale'

/** The images of a computer along the time until today, with what was proved of each. Without a row: the ages. */
const props = defineProps<{ row?: ReadinessRow }>()
const WIDTH = 300
const EDGE = 8
const scale = ageScale(WIDTH - 2 * EDGE)
const at = (time: number) => EDGE + scale(time)
const daysAgo = (days: number) => at(Date.now() - days * 86_400_000)
const marks = computed(() =>
  (props.row?.marks ?? []).map((mark) => ({
    ...mark,
    x: at(Date.parse(mark.taken_at)),
    shape: mark.state === 'damaged' ? 'broken' : !mark.complete ? 'unread' : mark.checked ? 'whole' : 'open',
    words: [
      moment(mark.taken_at),
      mark.state === 'damaged' ? 'damaged' : mark.checked ? 'whole' : 'not checked',
      ...(mark.complete ? [] : ['not all read']),
      mark.started ? 'seen to start' : 'not seen to start',
    ].join(', '),
  })),
)
const said = computed(() =>
  props.row!.marks.length
    ? `${props.row!.marks.length} images, the newest of ${moment(props.row!.marks[0]!.taken_at)}`
    : 'no images',
)
</script>

<template>
  <svg v-if="row" :viewBox="`0 0 ${WIDTH} 40`" role="img" :aria-label="said">
    <rect class="wished" :x="daysAgo(row.wish_days)" y="2" :width="WIDTH - daysAgo(row.wish_days)" height="36" />
    <line class="axis" x1="0" :x2="WIDTH" y1="17" y2="17" />
    <g v-for="mark in marks" :key="mark.id" :class="mark.shape">
      <title>{{ mark.words }}</title>
      <path
        v-if="mark.shape === 'broken'"
        class="mark"
        :d="`M${mark.x - 5} 6 h10 v10 l-4 3 4 3 v6 h-10 v-6 l4 -3 -4 -3 z`"
      />
      <path
        v-else-if="mark.shape === 'unread'"
        class="mark"
        :d="`M${mark.x - 4} 6 h8 v8 h-8 z M${mark.x - 4} 20 h8 v8 h-8 z`"
      />
      <rect v-else class="mark" :x="mark.x - 4" y="6" width="8" height="22" rx="3.5" />
      <path v-if="mark.started" class="started" :d="`M${mark.x - 4} 37 l4 -6 4 6 z`" />
    </g>
  </svg>
  <svg v-else :viewBox="`0 0 ${WIDTH} 16`" aria-hidden="true">
    <text
      v-for="[days, words] in AGES"
      :key="days"
      :class="{ last: days === 1 }"
      :x="daysAgo(days)"
      y="12"
      :text-anchor="days > 300 ? 'start' : 'middle'"
    >
      {{ words }}
    </text>
    <text :x="WIDTH" y="12" text-anchor="end">today</text>
  </svg>
</template>

<style scoped>
svg {
  width: 100%;
  display: block;
}
text {
  font-size: 12px;
  fill: var(--ink2);
}
@media (max-width: 1150px) {
  text {
    font-size: 17px;
  }
  .last {
    display: none;
  }
}
.wished {
  fill: var(--spruce-l);
}
.axis {
  stroke: var(--rule);
  stroke-width: 2;
}
.mark {
  stroke-width: 2;
  stroke: var(--spruce);
}
.whole .mark {
  fill: var(--spruce);
}
.open .mark {
  fill: var(--sheet);
  stroke: var(--ochre);
  stroke-dasharray: 4 2;
}
.unread .mark {
  fill: var(--ochre);
  stroke: var(--ochre);
}
.broken .mark {
  fill: var(--crimson);
  stroke: var(--crimson);
}
.started {
  fill: var(--spruce);
}
</style>
