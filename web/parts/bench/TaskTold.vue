<script setup lang="ts">
import { computed } from 'vue'
import { taskDoing, taskWords } from '../../words/drives'
import { percentOf } from '../../words/progress'
import Milestones from '../common/Milestones.vue'

/** Tells a screen reader what work on a drive has reached. */
const props = defineProps<{ task: Parameters<typeof taskWords>[0] }>()
const running = computed(() => ['queued', 'running'].includes(props.task.state))
</script>

<template>
  <Milestones
    :percent="percentOf(task.progress)"
    :step="running ? taskDoing(task) : taskWords(task)"
    :running="running"
  />
</template>
