<script setup lang="ts">
import { computed, ref, useId, watch } from 'vue'
import type { PlacedPart } from '../api/types'
import { bytes, roleName } from '../words/format'
import { catching, moved, perPixel, region, stride, type Grip, type Place } from './fit'
import { stack, usedHeight, type Drawn } from './heights'

/**
 * The core after the restore: parts can be chosen, dragged by their edges and as a whole, and moved with the arrow
 * keys.
 */
const props = defineProps<{
  parts: PlacedPart[]
  size: number
  limit: number
  unit: number
  width: number
  height: number
  chosen: number | null
  lit: number | null
  fixed: boolean
}>()
const emit = defineEmits<{
  choose: [number: number]
  place: [number: number, place: Place]
  hover: [number: number | null]
}>()
const id = useId()
const drawn = computed(() => stack(props.parts, props.size, props.height - 2))
const live = ref<{ grip: Grip; place: Place; stop: string } | null>(null)
const room = computed(() =>
  props.chosen === null ? null : region(props.parts, drawn.value, props.chosen, props.unit, props.limit),
)
const canMove = computed(() => !props.fixed && !!room.value && !room.value.part.kept)
const named = computed(() => props.parts.map((part) => `${part.name} ${bytes(part.size_bytes)}`))
const words = computed(() => `After the restore, ${bytes(props.size)}: ${named.value.join(', ') || 'empty'}`)

/** While something is dragged, its room is drawn to scale. */
const shown = computed<Drawn[]>(() => {
  if (!live.value || !room.value) return drawn.value
  const { from, top, height, part } = room.value
  const scale = 1 / perPixel(room.value)
  const { start, size } = live.value.place
  const inside = (one: Drawn) => one.top >= top - 0.5 && one.top + one.height <= top + height + 0.5
  const self = drawn.value.find((one) => one.number === part.number && one.role !== 'free')!
  const around = [
    { ...gap('before', top, (start - from) * scale), size: start - from },
    { ...self, size, top: top + (start - from) * scale, height: Math.max(size * scale, 2) },
    {
      ...gap('behind', top + (start + size - from) * scale, (room.value.to - start - size) * scale),
      size: room.value.to - start - size,
    },
  ]
  return [...drawn.value.filter((one) => !inside(one)), ...around.filter((one) => one.height > 0.5)]
})
const gap = (key: string, top: number, height: number): Drawn => ({
  key,
  number: null,
  name: 'Unallocated',
  role: 'free',
  size: 0,
  start: 0,
  used: 0,
  kind: '',
  top,
  height,
})
const frame = computed(() => shown.value.find((one) => one.number === props.chosen && one.role !== 'free') ?? null)
const grips = computed(() =>
  frame.value && canMove.value && room.value!.part.resizable ? (['top', 'bottom'] as const) : [],
)

let from = 0
function grab(event: PointerEvent, grip: Grip, number?: number) {
  if (number !== undefined) emit('choose', number)
  if (props.fixed || event.button !== 0) return
  if (number !== undefined && number !== props.chosen) return // first choose, then drag
  if (!canMove.value) return
  event.preventDefault()
  ;(event.currentTarget as Element).setPointerCapture(event.pointerId)
  from = event.clientY
  live.value = { grip, place: { start: room.value!.part.start_bytes, size: room.value!.part.size_bytes }, stop: '' }
}
function drag(event: PointerEvent) {
  if (!live.value || !room.value) return
  live.value = {
    grip: live.value.grip,
    ...moved(
      room.value,
      live.value.grip,
      (event.clientY - from) * perPixel(room.value),
      props.unit,
      catching(room.value),
    ),
  }
}
function drop() {
  const done = live.value
  live.value = null
  if (done && room.value) settle(done.place)
}
function settle(place: Place) {
  const { part } = room.value!
  if (place.start !== part.start_bytes || place.size !== part.size_bytes) emit('place', part.number, place)
}
const cancel = () => (live.value = null)
watch(() => props.parts, cancel)

function key(event: KeyboardEvent, grip: Grip) {
  const way = { ArrowUp: -1, ArrowDown: 1 }[event.key]
  if (event.key === 'Escape') cancel()
  if (!way || !canMove.value || !room.value) return
  event.preventDefault()
  event.stopPropagation()
  settle(moved(room.value, grip, way * stride(room.value, props.unit, event.shiftKey), props.unit, 0).place)
}
const label = (part: Drawn) => `${part.name || roleName(part.role)}, ${bytes(part.size)}`
</script>

<template>
  <div class="fit" :style="{ width: `${width}px`, height: `${height}px` }" @keydown.esc="cancel">
    <svg :width="width" :height="height" :viewBox="`0 0 ${width} ${height}`" role="group" :aria-label="words">
      <defs>
        <clipPath :id="`${id}c`"><rect x="1" y="1" :width="width - 2" :height="height - 2" rx="13" /></clipPath>
        <pattern :id="`${id}d`" width="7" height="7" patternUnits="userSpaceOnUse">
          <circle class="dot" cx="2" cy="2" r="1" />
        </pattern>
        <pattern :id="`${id}k`" width="10" height="10" patternUnits="userSpaceOnUse">
          <path class="knit" d="M0 0h10M0 5h10" />
        </pattern>
      </defs>
      <g :clip-path="`url(#${id}c)`">
        <g v-for="part in shown" :key="part.key" :transform="`translate(0 ${part.top + 1})`">
          <rect :width="width" :height="part.height" :class="`r-${part.role}`" />
          <rect v-if="part.role === 'free'" :width="width" :height="part.height" :fill="`url(#${id}d)`" />
          <rect
            v-else
            class="air"
            :y="usedHeight(part)"
            :width="width"
            :height="Math.max(0, part.height - usedHeight(part))"
          />
          <rect
            v-if="part.role !== 'free' && (part.number ?? 0) < 0"
            :width="width"
            :height="part.height"
            :fill="`url(#${id}k)`"
          />
          <rect v-if="part.number !== null && part.number === lit" class="lit" :width="width" :height="part.height" />
          <rect v-if="part.top > 0" class="seam" y="-1" :width="width" height="2" />
        </g>
      </g>
      <rect class="edge" x="1" y="1" :width="width - 2" :height="height - 2" rx="13" />
    </svg>
    <template v-for="part in shown" :key="`b${part.key}`">
      <button
        v-if="part.role !== 'free'"
        type="button"
        class="part"
        :class="{ grab: canMove && part.number === chosen }"
        :aria-pressed="part.number === chosen"
        :style="{ top: `${part.top + 1}px`, height: `${part.height}px` }"
        :aria-label="label(part)"
        :title="label(part)"
        @pointerdown="grab($event, 'whole', part.number!)"
        @pointermove="drag"
        @pointerup="drop"
        @pointercancel="cancel"
        @focus="emit('choose', part.number!)"
        @keydown="key($event, 'whole')"
        @mouseenter="emit('hover', part.number)"
        @mouseleave="emit('hover', null)"
      />
    </template>
    <div
      v-if="frame"
      class="frame"
      :class="{ quiet: fixed }"
      :style="{ top: `${frame.top - 2}px`, height: `${frame.height + 6}px` }"
    />
    <div
      v-for="grip in grips"
      :key="grip"
      class="grip"
      role="slider"
      tabindex="0"
      aria-orientation="vertical"
      :style="{ top: `${grip === 'top' ? frame!.top + 1 : frame!.top + frame!.height + 1}px` }"
      :aria-label="`${grip === 'top' ? 'Upper' : 'Lower'} edge of ${room!.part.name}`"
      :aria-valuenow="room!.part.size_bytes"
      :aria-valuemin="room!.part.least_bytes"
      :aria-valuemax="room!.to - room!.from"
      :aria-valuetext="bytes(room!.part.size_bytes)"
      @pointerdown="grab($event, grip)"
      @pointermove="drag"
      @pointerup="drop"
      @pointercancel="cancel"
      @keydown="key($event, grip)"
    >
      <i /><i />
    </div>
    <output v-if="live && frame" class="tip small" :style="{ top: `${frame.top + frame.height / 2}px` }"
      ><b>{{ bytes(live.place.size) }}</b
      ><span v-if="live.grip === 'whole'">at {{ bytes(live.place.start) }}</span
      ><span v-if="live.stop">{{ live.stop }}</span></output
    >
  </div>
</template>

<style scoped>
.fit {
  position: relative;
  touch-action: none;
}
svg {
  display: block;
}
.knit {
  stroke: var(--ink);
  stroke-width: 1;
  opacity: 0.25;
}
.lit {
  fill: none;
  stroke: var(--ink);
  stroke-width: 5;
}
.edge {
  fill: none;
  stroke: var(--ink);
  stroke-width: 1.3;
}
.part {
  position: absolute;
  left: 0;
  right: 0;
  width: 100%;
  background: none;
  border: 0;
  padding: 0;
  cursor: pointer;
}
.part.grab {
  cursor: grab;
}
.frame {
  position: absolute;
  left: -4px;
  right: -4px;
  border: 3px solid var(--ember);
  border-radius: 8px;
  pointer-events: none;
}
.frame.quiet {
  border-color: var(--edge);
  border-width: 2px;
}
.grip {
  position: absolute;
  left: 50%;
  width: 36px;
  height: 14px;
  margin: -7px 0 0 -18px;
  border: 1.3px solid var(--ink);
  border-radius: 8px;
  background: var(--sheet);
  cursor: ns-resize;
  display: grid;
  align-content: center;
  justify-items: center;
  gap: 2px;
}
.grip i {
  width: 16px;
  height: 1.2px;
  background: var(--ink);
}
.tip {
  position: absolute;
  left: 50%;
  transform: translate(-50%, -50%);
  background: var(--sheet);
  border: 1px solid var(--ink);
  border-radius: 6px;
  padding: 2px 8px;
  display: grid;
  text-align: center;
  white-space: nowrap;
  pointer-events: none;
  z-index: 2;
  line-height: 1.25;
}
</style>
