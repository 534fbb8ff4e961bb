<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { ComputerAbout, Docket } from '../../api/types'
import ComputerForm from '../computers/ComputerForm.vue'
import ComputerPicker from '../computers/ComputerPicker.vue'
import type { Picked } from '../computers/picked'

const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ made: [id: number] }>()
const computer = ref<Picked | null>(null)
const registering = ref(false)
const cause = ref('drive_failed')
const note = ref('')
const error = ref('')
const causes = {
  drive_failed: 'Drive failed',
  corrupt: 'System corrupt',
  infected: 'Infected',
  slow: 'Slow',
  replaced: 'Computer replaced',
  rehearsal: 'Rehearsal',
  set_up: 'Set up',
}

watch(visible, () => {
  error.value = ''
  registering.value = false
  computer.value = null
})

function take(one: Picked) {
  computer.value = one
  registering.value = false
}

const known = async (id: number) => take(await api.get<ComputerAbout>(`/computers/${id}`))

async function make() {
  try {
    const made = await api.post<Docket>('/dockets', {
      computer_id: computer.value!.id,
      cause: cause.value,
      note: note.value,
    })
    visible.value = false
    emit('made', made.id)
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog
    v-model:visible="visible"
    modal
    :header="registering ? 'Register a computer, and open its docket' : 'Open a docket'"
    :style="{ width: registering ? '860px' : '480px', maxWidth: '94vw' }"
  >
    <ComputerForm v-if="registering" @kept="take" @same="known" />
    <form v-else @submit.prevent="make">
      <ComputerPicker v-model="computer" label="Computer" @unknown="registering = true" />
      <label class="field"
        >What happened
        <select v-model="cause">
          <option v-for="(name, key) in causes" :key="key" :value="key">{{ name }}</option>
        </select>
      </label>
      <label class="field">Note<textarea v-model="note" rows="3" maxlength="2000" /></label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go" :disabled="!computer">Open the docket</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
</style>
