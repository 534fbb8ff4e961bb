<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { computed, ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { ImageRow } from '../../api/types'
import { bytes, count } from '../../words/format'
import { vMay } from '../../words/may'

/** Over the images that could be given up, by what is kept of their computers: giving up those that are listed. */
const props = defineProps<{ rows: ImageRow[]; total: number }>()
const emit = defineEmits<{ changed: [] }>()
const asking = ref(false)
const because = ref('No longer needed, by what is kept of its computer')
const error = ref('')
const size = computed(() => props.rows.reduce((sum, row) => sum + (row.file_bytes ?? 0), 0))
const these = computed(() => (props.rows.length < props.total ? `these ${count(props.rows.length)}` : 'all of them'))

async function giveUp() {
  error.value = ''
  try {
    await api.post('/images-give-up', { ids: props.rows.map((row) => row.id), because: because.value })
    asking.value = false
    emit('changed')
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <p class="message ask spare">
    <span
      >Not among the newest of their computers, not the last of a month, never seen to start: {{ bytes(size) }} would be
      free.</span
    >
    <button v-may="'lead'" type="button" class="btn slim push" @click="asking = true">Give {{ these }} up…</button>
  </p>
  <Dialog v-model:visible="asking" modal :header="`Give ${count(rows.length)} images up`" :style="{ width: '460px' }">
    <form @submit.prevent="giveUp">
      <p>
        They lie in the bin for 14 days, and can be taken back. Then their files are removed, and {{ bytes(size) }} are
        free.
      </p>
      <label class="field">Why<input v-model="because" autofocus maxlength="200" required /></label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn hot">Give them up</button>
    </form>
  </Dialog>
</template>

<style scoped>
.spare {
  display: flex;
  gap: 10px;
  align-items: center;
}
form {
  display: grid;
  gap: 14px;
}
</style>
