<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Image } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** Giving an image up, for a lead: it stays on its shelf, and is offered to nobody any more; and taking it back. */
const props = defineProps<{ image: Image }>()
const emit = defineEmits<{ changed: [image: Image] }>()
const asking = ref(false)
const because = ref('')
const error = ref('')

async function attempt(request: () => Promise<Image>) {
  error.value = ''
  try {
    emit('changed', await request())
    asking.value = false
  } catch (problem) {
    error.value = errorText(problem)
  }
}

const path = () => `/images/${props.image.id}/give-up`
const giveUp = () => attempt(() => api.post<Image>(path(), { because: because.value }))
const takeBack = () => attempt(() => api.delete<Image>(path()))
</script>

<template>
  <p v-if="image.given_up" class="message ask">
    Given up {{ moment(image.given_up.at) }}: {{ image.given_up.because }}
    <button v-may="'lead'" type="button" class="btn slim" @click="takeBack">Take it back</button>
  </p>
  <button v-else v-may="'lead'" type="button" class="btn slim give" @click="asking = true">Give it up…</button>
  <p v-if="error && !asking" class="message" role="alert">{{ error }}</p>
  <Dialog v-model:visible="asking" modal header="Give this image up" :style="{ width: '440px' }">
    <form @submit.prevent="giveUp">
      <p>It is in no list and no proposal from then on. Nothing on its shelf is touched, and it can be taken back.</p>
      <label class="field">Why<input v-model="because" autofocus maxlength="200" required /></label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn hot">Give it up</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
.give {
  align-self: start;
  justify-self: start;
}
</style>
