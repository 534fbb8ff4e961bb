<script setup lang="ts">
import { computed } from 'vue'
import type { Run } from '../../api/types'
import Core from '../../drawing/Core.vue'
import StateMark from '../common/StateMark.vue'
import { filled, mark, percent, shape, words } from './row'

/** The row of a run: a small core for each drive, side by side, read from three metres. */
const props = defineProps<{ run: Run }>()
const drawn = computed(() => shape(props.run.places.length))
</script>

<template>
  <ol
    class="row"
    :class="{ large: drawn.large }"
    :style="{ gridTemplateColumns: `repeat(${drawn.columns}, minmax(0, 1fr))` }"
    aria-label="The row"
  >
    <li v-for="place in run.places" :key="place.place" :class="place.state">
      <RouterLink :to="`/dockets/${place.docket_id}`">
        <b>{{ place.computer }}</b>
        <Core
          v-if="place.label"
          :parts="run.image.parts"
          :size="run.image.size_bytes"
          :width="drawn.large ? 46 : 22"
          :height="drawn.height"
          :written="filled(run.image.parts, percent(place))"
          :label="`Drive of ${place.computer}`"
        />
        <span
          v-else
          class="slot"
          :style="{ height: `${drawn.height}px`, width: drawn.large ? '46px' : '22px' }"
          aria-hidden="true"
        />
        <span class="percent">{{ place.write || place.state === 'signed' ? `${percent(place)} %` : '–' }}</span>
        <span class="said"><StateMark v-if="mark(place)" :state="mark(place)!" />{{ words(place) }}</span>
        <span class="label mono" :title="place.port ? `Port ${place.port}` : undefined"
          >{{ place.label ? `…${place.label}` : ' ' }}{{ place.label && drawn.large ? ` · ${place.port}` : '' }}</span
        >
      </RouterLink>
    </li>
  </ol>
</template>

<style scoped>
.row {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 8px;
}
a {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  column-gap: 8px;
  align-items: center;
  border: 1px solid var(--rule);
  border-radius: 8px;
  padding: 6px 8px;
  color: inherit;
  text-decoration: none;
  height: 100%;
}
b {
  grid-column: 1 / -1;
  white-space: nowrap;
  overflow: hidden;
  text-overflow: ellipsis;
}
svg,
.slot {
  grid-row: 2 / 5;
}
.slot {
  border: 1.5px dashed var(--edge);
  border-radius: 7px;
}
.percent {
  font-weight: 800;
  font-size: 17px;
  line-height: 1.15;
  font-variant-numeric: tabular-nums;
  white-space: nowrap;
}
.said {
  font-size: 12.5px;
  line-height: 1.2;
  display: flex;
  gap: 5px;
  align-items: flex-start;
}
.label {
  font-size: 11.5px;
  color: var(--ink2);
  white-space: nowrap;
  overflow: hidden;
}
.large a {
  grid-template-columns: minmax(0, 1fr);
  justify-items: center;
  align-content: start;
  row-gap: 6px;
  padding: 10px 6px;
}
.large b {
  font-size: 19px;
}
.large svg,
.large .slot {
  grid-row: auto;
}
.large .percent {
  font-size: 28px;
  line-height: 1;
}
.large .said {
  font-size: 14px;
  min-height: 2.4em;
  text-align: center;
}
.failed a,
.unfitted a {
  border: 2px solid var(--crimson);
  background: var(--crimson-l);
}
.running a {
  border-color: var(--ember);
}
.done a,
.signed a {
  border-color: var(--spruce);
  background: var(--spruce-l);
}
</style>
