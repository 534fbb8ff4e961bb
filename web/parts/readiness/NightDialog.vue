<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { NightTold } from '../../api/types'
import { vMay } from '../../words/may'

/** The hours in which what is not proved is proved by itself. */
const visible = defineModel<boolean>('visible', { required: true })
const told = ref<NightTold | null>(null)
const on = ref(false)
const begins = ref('22:00')
const ends = ref('05:00')
const error = ref('')

function take(next: NightTold) {
  told.value = next
  on.value = !!next.window
  if (next.window) ({ begins: begins.value, ends: ends.value } = next.window)
}

async function keep() {
  try {
    take(await api.put<NightTold>('/night', on.value ? { begins: begins.value, ends: ends.value } : {}))
    visible.value = false
  } catch (problem) {
    error.value = errorText(problem)
  }
}

api
  .get<NightTold>('/readiness/told')
  .then(take)
  .catch((problem) => (error.value = errorText(problem)))
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Proving at night" :style="{ width: '480px' }">
    <form @submit.prevent="keep">
      <p>
        In these hours Evrel proves by itself what is not proved: one computer after the other, the one whose proof is
        oldest first. A write always goes first.
      </p>
      <label class="row"><input v-model="on" type="checkbox" /> prove at night</label>
      <div class="hours">
        <label class="field"
          >From<input v-model="begins" :disabled="!on" pattern="([01]\d|2[0-3]):[0-5]\d" placeholder="22:00" required
        /></label>
        <label class="field"
          >Until<input v-model="ends" :disabled="!on" pattern="([01]\d|2[0-3]):[0-5]\d" placeholder="05:00" required
        /></label>
      </div>
      <p v-if="told?.window" class="small muted">Chosen by {{ told.window.by }}.</p>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button v-may="'lead'" type="submit" class="btn go">Keep it</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
.hours {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
</style>
