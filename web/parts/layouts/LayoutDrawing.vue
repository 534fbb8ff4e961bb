<script setup lang="ts">
import { computed, useTemplateRef } from 'vue'
import type { LayoutView, Part } from '../../api/types'
import Bands from '../../drawing/Bands.vue'
import Core from '../../drawing/Core.vue'
import FitCore from '../../drawing/FitCore.vue'
import type { Place } from '../../drawing/fit'
import Names from '../../drawing/Names.vue'
import { useElementSize } from '../../stations/useElementSize'
import { bytes } from '../../words/format'

/**
 * Three cores side by side: the image, the disk after the restore, where parts are moved, and the disk as it is now.
 * The view has all three of them.
 */
const props = defineProps<{ view: LayoutView; fixed: boolean }>()
const emit = defineEmits<{ place: [number: number, to: Place] }>()
const chosen = defineModel<number | null>('chosen', { required: true })
const lit = defineModel<number | null>('lit', { required: true })
const room = useTemplateRef<HTMLElement>('room')
const { height: free, width } = useElementSize(room)
/** The bands give way before the names do. */
const bands = computed(() => (width.value > 720 ? 130 : 70))
const height = computed(() => Math.max(230, Math.min(640, free.value - 30)))
const parts = computed(() => props.view.after!.parts)

const used = (one: Part | null) => {
  if (!one) return []
  const kept = parts.value.some((other) => other.number === one.number) || props.view.way === 'part'
  return [`${bytes(one.volume.used_bytes)} used`, ...(kept ? [] : ['left out'])]
}
const after = (one: Part | null, size: number) => {
  if (!one) return ['left free']
  const unused = size - one.volume.used_bytes
  return one.volume.kind && one.volume.kind !== 'swap' && unused > 0
    ? [one.change ?? 'as is', `${bytes(unused)} free`]
    : [one.change ?? 'as is']
}
const stays = (one: Part) => parts.value.some((other) => other.kept && other.number === -one.number!)
const gone = (one: Part | null) =>
  one ? [`${bytes(one.volume.used_bytes)} used`, stays(one) ? 'stays' : 'is lost'] : []
const lost = computed(() => props.view.now!.parts.some((one) => !stays(one)))
</script>

<template>
  <div ref="room" class="cores" :style="{ '--bands': `${bands}px` }">
    <div class="heads">
      <span />
      <h3>In the image</h3>
      <span />
      <h3>After the restore</h3>
      <span />
      <h3 :class="{ lost }">On the disk now</h3>
      <span />
    </div>
    <div class="row">
      <Names
        :parts="view.image!.parts"
        :size="view.image!.size_bytes"
        :height="height"
        side="left"
        :say="used"
        :chosen="chosen"
        @choose="chosen = $event"
      />
      <Core
        :parts="view.image!.parts"
        :size="view.image!.size_bytes"
        :width="92"
        :height="height"
        label="In the image"
      />
      <Bands
        :from="view.image!.parts"
        :from-size="view.image!.size_bytes"
        :to="parts"
        :to-size="view.after!.size_bytes"
        :width="bands"
        :height="height"
        :lit="lit"
      />
      <FitCore
        :parts="parts"
        :size="view.after!.size_bytes"
        :limit="view.after!.limit_bytes"
        :unit="view.after!.unit"
        :width="104"
        :height="height"
        :chosen="chosen"
        :lit="lit"
        :fixed="fixed"
        @choose="chosen = $event"
        @place="(number: number, to: Place) => emit('place', number, to)"
        @hover="lit = $event"
      />
      <Names
        :parts="parts"
        :size="view.after!.size_bytes"
        :height="height"
        side="right"
        :say="after"
        :chosen="chosen"
        @choose="chosen = $event"
      />
      <Core
        :parts="view.now!.parts"
        :size="view.now!.size_bytes"
        :width="70"
        :height="height"
        :lost="lost"
        :stays="view.now!.parts.filter(stays).map((one) => one.number)"
        label="On the disk now"
      />
      <Names :parts="view.now!.parts" :size="view.now!.size_bytes" :height="height" side="right" :say="gone" />
    </div>
  </div>
</template>

<style scoped>
.cores {
  flex: 1;
  min-height: 0;
  overflow: hidden;
}
.heads,
.row {
  display: grid;
  grid-template-columns: minmax(0, 1.05fr) 92px calc(var(--bands) - 20px) 104px minmax(0, 1fr) 70px minmax(0, 1fr);
  gap: 0 10px;
}
.row > :nth-child(3) {
  margin: 0 -10px;
  width: var(--bands);
}
.heads {
  height: 26px;
}
.heads h3 {
  font-size: 15px;
  font-weight: 750;
  text-align: center;
  white-space: nowrap;
  margin: 0 -40px;
}
.heads .lost {
  color: var(--crimson);
}
</style>
