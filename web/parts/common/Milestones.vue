<script setup lang="ts">
import { ref, watch } from 'vue'
import { milestone } from '../../words/milestones'

/** A live region that is not seen: tells a screen reader what running work has reached, quarter by quarter. */
const props = defineProps<{ percent: number; step: string; running: boolean }>()
const said = ref('')

watch(
  () => ({ ...props }),
  (now, before) => (said.value = milestone(before, now) ?? said.value),
)
</script>

<template>
  <span class="hidden-words" role="status">{{ said }}</span>
</template>
