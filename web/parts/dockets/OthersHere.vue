<script setup lang="ts">
import type { SomebodyHere } from '../../api/types'

/** Colleagues who have the same thing open, or chosen. */
defineProps<{ people: SomebodyHere[]; station?: boolean }>()
const initials = (name: string) =>
  name
    .split(/[\s.]+/)
    .map((part) => part.charAt(0))
    .join('')
    .slice(0, 2)
</script>

<template>
  <span v-if="people.length" class="others" role="status">
    <span
      v-for="one in people"
      :key="`${one.technician} ${one.station} ${one.choice}`"
      class="one"
      :title="station ? `${one.technician} is at ${one.station}` : `${one.technician} has chosen this, too`"
    >
      <b aria-hidden="true">{{ initials(one.technician) }}</b>
      <span v-if="station" class="small">at {{ one.station }}</span>
      <span class="hidden-words">{{ one.technician }} {{ station ? '' : 'has chosen this, too' }}</span>
    </span>
  </span>
</template>

<style scoped>
.others {
  display: inline-flex;
  gap: 8px;
}
.one {
  display: inline-flex;
  align-items: center;
  gap: 5px;
  white-space: nowrap;
}
b {
  display: grid;
  place-content: center;
  width: 24px;
  height: 24px;
  border-radius: 50%;
  border: 2px solid var(--ember);
  background: var(--ember-l);
  color: var(--ember-ink);
  font-size: 11px;
}
</style>
