<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import type { StationRow } from '../../api/types'
import { moment } from '../../words/format'
import { useDocketStore } from '../../stations/docket'
import { vMay } from '../../words/may'

/** The foot of a sealed station: by whom, and how to open it again. */
defineProps<{ row: StationRow; locked?: string }>()
const emit = defineEmits<{ break: [reason: string] }>()
const store = useDocketStore()
const asking = ref(false)
const reason = ref('')

function go() {
  asking.value = false
  emit('break', reason.value)
}
</script>

<template>
  <span class="small"
    >Sealed by <b>{{ row.seal?.name }}</b>, {{ row.seal && moment(row.seal.at) }}</span
  >
  <button
    v-may="store.docket?.closed_at ? 'lead' : 'technician'"
    v-if="!locked"
    type="button"
    class="btn push"
    @click="asking = true"
  >
    Break this seal…
  </button>
  <span v-else class="push small muted">{{ locked }}</span>
  <Dialog v-model:visible="asking" modal :header="`Break the seal of ${row.title}`" :style="{ width: '440px' }">
    <form @submit.prevent="go">
      <p>Whatever was sealed after it is opened again too. Nothing on any disk changes.</p>
      <label class="field">Why<input v-model="reason" autofocus maxlength="200" required /></label>
      <button type="submit" class="btn hot">Break the seal</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
</style>
