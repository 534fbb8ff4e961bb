<script setup lang="ts">
import type { StationName } from '../../api/types'

defineProps<{ for: StationName; docket: number }>()
const names: Record<StationName, string> = {
  computer: 'Computer',
  image: 'Image',
  target: 'Target',
  layout: 'Layout',
  write: 'Write',
  start: 'Start',
}
</script>

<template>
  <div class="empty">
    <b>{{ names[$props.for] }} comes first</b>It is not sealed yet, and this station builds on it.
    <RouterLink class="btn" :to="`/dockets/${docket}/${$props.for}`">To {{ names[$props.for] }}</RouterLink>
  </div>
</template>
