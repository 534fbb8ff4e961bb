<script setup lang="ts">
import Dialog from 'primevue/dialog'
import type { ComputerAbout } from '../../api/types'
import ComputerForm from './ComputerForm.vue'

/** Registering a computer, or changing what is written down of one. */
defineProps<{ computer?: ComputerAbout | null; from?: { kind: 'drive' | 'image'; id: number } | null }>()
const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ kept: [computer: ComputerAbout]; same: [id: number] }>()
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :header="computer ? `What is known of ${computer.name}` : 'Register a computer'"
    :style="{ width: '860px', maxWidth: '94vw' }"
  >
    <ComputerForm
      :computer="computer"
      :from="from"
      @kept="(made) => ((visible = false), emit('kept', made))"
      @same="(id) => ((visible = false), emit('same', id))"
    />
  </Dialog>
</template>
