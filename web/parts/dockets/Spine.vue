<script setup lang="ts">
import type { StationName, StationRow } from '../../api/types'
import { clock, moment } from '../../words/format'

defineProps<{ stations: StationRow[]; current: StationName; docket: number }>()
</script>

<template>
  <nav class="spine" aria-label="Stations">
    <RouterLink
      v-for="(station, index) in stations"
      :key="station.name"
      :to="`/dockets/${docket}/${station.name}`"
      class="stub"
      :class="{ now: station.name === current, later: station.state === 'later' }"
      :aria-current="station.name === current ? 'step' : undefined"
    >
      <b
        ><span class="n">{{ index + 1 }}</span
        >{{ station.title }}</b
      >
      <small>{{ station.lead }}</small>
      <span v-if="station.seal" class="seal" :title="`Sealed by ${station.seal.name}, ${moment(station.seal.at)}`">
        <span class="hidden-words">sealed </span>{{ clock(station.seal.at) }}<br />{{ station.seal.by }}
      </span>
    </RouterLink>
  </nav>
</template>

<style scoped>
.spine {
  padding: 14px 0 0 20px;
  display: flex;
  flex-direction: column;
}
.stub {
  position: relative;
  display: block;
  padding: 10px 12px 10px 14px;
  border: 1px solid transparent;
  border-right: 0;
  border-bottom: 1.5px dashed var(--rule);
  min-height: 76px;
  text-decoration: none;
}
.stub:has(.seal) {
  padding-right: 56px;
}
b {
  font-size: 15px;
}
small {
  display: block;
  color: var(--ink2);
  font-size: 13px;
  line-height: 1.3;
  white-space: pre-line;
  overflow-wrap: anywhere;
}
.n {
  font-family: var(--mono);
  font-size: 12px;
  color: var(--ink2);
  margin-right: 6px;
  font-weight: 400;
}
.later b {
  color: var(--ink2);
  font-weight: 600;
}
.now {
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-right: 0;
  border-radius: 8px 0 0 8px;
  margin-right: -1px;
  z-index: 1;
}
.now::before {
  content: '';
  position: absolute;
  left: -1px;
  top: -1px;
  bottom: -1px;
  width: 5px;
  border-radius: 8px 0 0 8px;
  background: var(--ember);
}
.seal {
  position: absolute;
  right: 10px;
  top: 10px;
  width: 40px;
  height: 40px;
  border-radius: 50%;
  border: 1.5px solid var(--spruce);
  outline: 1px solid var(--spruce);
  outline-offset: -4px;
  color: var(--spruce);
  font: 700 10px/1.1 var(--mono);
  display: grid;
  place-content: center;
  text-align: center;
  transform: rotate(-9deg);
}
/* Where there is less room, a station needs it more. */
@media (max-width: 1150px) {
  .spine {
    padding-left: 10px;
  }
  .stub {
    padding: 10px 6px 10px 12px;
  }
  .stub:has(.seal) {
    padding-right: 6px;
  }
  small {
    display: none;
  }
  .seal {
    position: static;
    margin: 4px 0 0 18px;
  }
}
@media (max-width: 700px) {
  .spine {
    flex-direction: row;
    overflow-x: auto;
    padding: 6px 8px;
    gap: 4px;
    scrollbar-width: none;
  }
  .stub {
    min-height: 0;
    padding: 6px 10px;
    border: 1px solid transparent;
    white-space: nowrap;
  }
  .stub:has(.seal) {
    padding-right: 10px;
  }
  .now {
    border: 1px solid var(--ember);
    border-radius: 8px;
    margin: 0;
  }
  .now::before,
  .seal {
    display: none;
  }
}
</style>
