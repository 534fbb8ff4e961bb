<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { CandidateImage } from '../api/types'
import { moment } from '../words/format'
import { stateChip } from '../words/images'
import { place, spread } from './timeScale'

/** Images along the time, before and after the trouble. */
const props = defineProps<{
  images: CandidateImage[]
  since: string | null
  noticed: string | null
  chosen: number | null
  locked: boolean
}>()
const emit = defineEmits<{ choose: [id: number] }>()
const WIDTH = 746
const zoom = ref(1)
/** Only this computer's, or, without any, what may be its: a twin's would mislead here. */
const shown = computed(() => {
  const own = props.images.filter((image) => image.own)
  return own.length ? own : props.images.filter((image) => image.kin === 'unclear')
})
const marks = computed(() => [
  ...shown.value.map((image) => Date.parse(image.taken_at)),
  ...[props.since, props.noticed].filter((time) => time !== null).map((time) => Date.parse(time)),
])
const focus = computed(() =>
  Date.parse(
    shown.value.find((image) => image.id === props.chosen)?.taken_at ?? props.since ?? shown.value[0]?.taken_at ?? '',
  ),
)
const scale = computed(() => place(marks.value, focus.value, zoom.value, WIDTH))
const points = computed(() =>
  spread(
    shown.value
      .map((image) => ({ image, x: scale.value(Date.parse(image.taken_at)) }))
      .filter((point) => point.x > -20 && point.x < WIDTH + 20),
  ),
)
const from = computed(() =>
  (props.since ?? props.noticed) ? scale.value(Date.parse((props.since ?? props.noticed)!)) : null,
)
const to = computed(() => (props.noticed ? scale.value(Date.parse(props.noticed)) : from.value))
function shape(image: CandidateImage): 'whole' | 'open' | 'unread' | 'broken' {
  if (image.state === 'damaged' || image.state === 'incomplete') return 'broken'
  if (image.unread) return 'unread'
  return image.state === 'whole' && !image.due ? 'whole' : 'open'
}
const words = (image: CandidateImage) => `${moment(image.taken_at)}, ${stateChip(image)[1].toLowerCase()}, ${image.why}`

watch(
  () => props.images.length,
  () => (zoom.value = 1),
)
function by(factor: number) {
  zoom.value = Math.min(64, Math.max(1, zoom.value * factor))
}
defineExpose({ by })
</script>

<template>
  <figure>
    <svg :viewBox="`0 0 ${WIDTH} 96`" role="group" aria-label="Images along the time">
      <rect
        v-if="to !== null && to < WIDTH"
        class="trouble"
        :x="Math.max(0, to)"
        y="14"
        :width="WIDTH - Math.max(0, to)"
        height="62"
      />
      <rect
        v-if="from !== null && to !== null && to > from"
        class="perhaps"
        :x="Math.max(0, from)"
        y="14"
        :width="Math.min(WIDTH, to) - Math.max(0, from)"
        height="62"
      />
      <line class="axis" x1="0" :x2="WIDTH" y1="50" y2="50" />
      <g v-if="from !== null && from > 0 && from < WIDTH">
        <line class="edge" :x1="from" :x2="from" y1="4" y2="80" />
        <text class="since" :x="from < 130 ? from + 6 : from - 6" y="11" :text-anchor="from < 130 ? 'start' : 'end'">
          {{ moment((since ?? noticed)!) }}
        </text>
        <text v-if="to !== null && to < WIDTH - 70" class="in" :x="to + 8" y="28">in trouble</text>
      </g>
      <g
        v-for="point in points"
        :key="point.image.id"
        class="image"
        :class="[shape(point.image), { on: point.image.id === chosen }]"
        @click="locked || emit('choose', point.image.id)"
      >
        <title>{{ words(point.image) }}</title>
        <rect class="hit" :x="point.x - 13" y="26" width="26" height="48" />
        <rect
          v-if="shape(point.image) === 'whole'"
          class="mark"
          :x="point.x - 6.5"
          y="34"
          width="13"
          height="32"
          rx="5"
        />
        <rect
          v-else-if="shape(point.image) === 'open'"
          class="mark"
          :x="point.x - 6"
          y="35"
          width="12"
          height="30"
          rx="5"
        />
        <path
          v-else-if="shape(point.image) === 'unread'"
          class="mark"
          :d="`M${point.x - 6} 34 h12 v11 h-12 z M${point.x - 6} 55 h12 v11 h-12 z`"
        />
        <path v-else class="mark" :d="`M${point.x - 7} 34 h14 v14 l-5 4 5 3 v11 h-14 v-12 l5 -3 -5 -4 z`" />
        <text
          v-if="point.label"
          class="date"
          :x="point.x"
          y="90"
          :text-anchor="point.x < 40 ? 'start' : point.x > WIDTH - 40 ? 'end' : 'middle'"
        >
          {{ point.label }}
        </text>
      </g>
    </svg>
    <figcaption class="small muted">
      <span class="key-mark whole" /> whole <span class="key-mark open" /> not checked
      <span class="key-mark unread" /> not all read <span class="key-mark broken" /> damaged
      <span class="push"
        ><button type="button" class="btn slim" :disabled="zoom <= 1" aria-label="Show more time" @click="by(0.5)">
          −
        </button>
        <button type="button" class="btn slim" :disabled="zoom >= 64" aria-label="Show less time" @click="by(2)">
          +
        </button></span
      >
    </figcaption>
  </figure>
</template>

<style scoped>
figure {
  margin: 0 0 4px;
}
svg {
  width: 100%;
  display: block;
}
.trouble {
  fill: var(--crimson-l);
}
.perhaps {
  fill: var(--ochre-l);
}
.axis {
  stroke: var(--rule);
  stroke-width: 2;
}
.edge {
  stroke: var(--crimson);
  stroke-width: 2;
}
.since {
  fill: var(--crimson);
  font-size: 12px;
}
.in {
  fill: var(--crimson);
  font-size: 12.5px;
  font-weight: 700;
}
.image {
  cursor: pointer;
}
.hit {
  fill: transparent;
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
  stroke-width: 1;
}
.unread.on .mark {
  stroke-width: 3;
}
.broken .mark {
  fill: var(--crimson);
  stroke: var(--crimson);
}
.on .mark {
  stroke: var(--ember);
  stroke-width: 4;
  stroke-dasharray: none;
}
.date {
  fill: var(--ink2);
  font-size: 12px;
}
.on .date {
  fill: var(--ink);
  font-weight: 700;
}
figcaption {
  display: flex;
  gap: 6px;
  align-items: center;
}
.key-mark {
  width: 8px;
  height: 14px;
  border-radius: 3px;
  border: 2px solid var(--spruce);
}
.key-mark.whole {
  background: var(--spruce);
}
.key-mark.open {
  border-color: var(--ochre);
  border-style: dashed;
}
.key-mark.unread {
  border-color: var(--ochre);
  border-width: 5px 4px;
  border-radius: 0;
  border-left-width: 0;
  border-right-width: 0;
  height: 14px;
}
.key-mark.broken {
  background: var(--crimson);
  border-color: var(--crimson);
  border-radius: 0;
  clip-path: polygon(0 0, 100% 0, 100% 40%, 60% 55%, 100% 65%, 100% 100%, 0 100%, 0 65%, 40% 55%, 0 40%);
}
.key-mark:not(:first-child) {
  margin-left: 8px;
}
.btn.slim {
  min-width: 32px;
  padding: 1px 8px;
}
</style>
