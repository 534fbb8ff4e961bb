<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { Image } from '../../api/types'
import ComputerPicker from '../computers/ComputerPicker.vue'
import type { Picked } from '../computers/picked'

/** What is written on an image, and whose it is; what it says of itself stays in it. */
const props = defineProps<{ image: Image }>()
const open = defineModel<boolean>('open', { required: true })
const emit = defineEmits<{ changed: [image: Image] }>()
const note = ref('')
const computer = ref<Picked | null>(null)
const error = ref('')

watch(open, () => {
  error.value = ''
  note.value = props.image.note ?? ''
  const { computer_id: id, computer: name } = props.image
  computer.value = id ? { id, name: name ?? '', place: null } : null
})

async function keep() {
  const whose = computer.value?.id ?? null
  const body = { note: note.value, ...(whose === props.image.computer_id ? {} : { computer_id: whose }) }
  try {
    emit('changed', await api.patch<Image>(`/images/${props.image.id}`, body))
    open.value = false
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog v-model:visible="open" modal header="Note and computer" :style="{ width: '480px' }">
    <form @submit.prevent="keep">
      <label class="field">Note<input v-model="note" maxlength="500" autofocus /></label>
      <ComputerPicker v-model="computer" label="Of which computer it is" known-only />
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go">Keep it</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
</style>
