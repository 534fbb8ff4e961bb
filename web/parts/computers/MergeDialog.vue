<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { useRouter } from 'vue-router'
import { api, errorText } from '../../api/client'
import type { ComputerAbout } from '../../api/types'
import ComputerPicker from './ComputerPicker.vue'
import type { Picked } from './picked'

/** Two records of one computer become one. */
const props = defineProps<{ computer: ComputerAbout }>()
const visible = defineModel<boolean>('visible', { required: true })
const router = useRouter()
const into = ref<Picked | null>(null)
const error = ref('')

async function merge() {
  try {
    await api.post(`/computers/${props.computer.id}/merge`, { into: into.value!.id })
    visible.value = false
    await router.push(`/computers/${into.value!.id}`)
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal :header="`${computer.name} is the same as…`" :style="{ width: '480px' }">
    <form @submit.prevent="merge">
      <ComputerPicker v-model="into" label="The one that stays" :but="computer.id" known-only />
      <p class="small">
        Dockets, images and drives of {{ computer.name }} go to it; what it says of itself stays, and what it lacks is
        taken over. The name {{ computer.name }} is gone afterwards.
      </p>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn hot" :disabled="!into">Make one of the two</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
</style>
