<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { Docket } from '../../api/types'

const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ made: [id: number] }>()
const computers = ref<{ id: number; name: string; place: string | null }[]>([])
const computer = ref<number | null>(null)
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
}

watch(visible, async (open) => {
  if (!open) return
  error.value = ''
  computers.value = await api.get<typeof computers.value>('/computers').catch(() => [])
  computer.value ??= computers.value[0]?.id ?? null
})

async function make() {
  try {
    const made = await api.post<Docket>('/dockets', {
      computer_id: computer.value,
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
  <Dialog v-model:visible="visible" modal header="Open a docket" :style="{ width: '440px' }">
    <form @submit.prevent="make">
      <label class="field"
        >Computer
        <select v-model="computer" required>
          <option v-for="one in computers" :key="one.id" :value="one.id">{{ one.name }} · {{ one.place }}</option>
        </select>
      </label>
      <label class="field"
        >What happened
        <select v-model="cause">
          <option v-for="(name, key) in causes" :key="key" :value="key">{{ name }}</option>
        </select>
      </label>
      <label class="field">Note<textarea v-model="note" rows="3" maxlength="2000" /></label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go">Open the docket</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
</style>
