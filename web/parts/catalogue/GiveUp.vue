<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Image } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** Giving an image up, for a lead: it is offered to nobody, and lies in the bin for some days; and taking it back. */
const props = defineProps<{ image: Image }>()
const emit = defineEmits<{ changed: [image: Image] }>()
const asking = ref(false)
const because = ref('')
const error = ref('')
/** Asked once more before its files are removed. */
const sure = ref(false)

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
const removeNow = () => attempt(() => api.delete<Image>(`/images/${props.image.id}/files`))
const takeBack = () => attempt(() => api.delete<Image>(path()))
</script>

<template>
  <p v-if="image.given_up" class="message ask">
    Given up {{ moment(image.given_up.at) }}: {{ image.given_up.because }}.
    {{
      image.given_up.until
        ? `In the bin until ${moment(image.given_up.until)}, then its files are removed from ${image.shelf}.`
        : `Its files stay on ${image.shelf}.`
    }}
    <span class="acts">
      <button v-may="'lead'" type="button" class="btn slim" @click="takeBack">Take it back</button>
      <button
        v-if="image.given_up.until && image.reachable && !sure"
        v-may="'lead'"
        type="button"
        class="btn slim"
        @click="sure = true"
      >
        Remove its files now…
      </button>
      <button v-if="sure" type="button" class="btn slim hot" @click="removeNow">Remove them for good</button>
    </span>
  </p>
  <button v-else v-may="'lead'" type="button" class="btn slim give" @click="asking = true">Give it up…</button>
  <p v-if="error && !asking" class="message" role="alert">{{ error }}</p>
  <Dialog v-model:visible="asking" modal header="Give this image up" :style="{ width: '440px' }">
    <form @submit.prevent="giveUp">
      <p>
        It is in no list and no proposal from then on. It lies in the bin for 14 days, and can be taken back; then its
        files are removed from {{ image.shelf }}.
      </p>
      <label class="field">Why<input v-model="because" autofocus maxlength="200" required /></label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn hot">Give it up</button>
    </form>
  </Dialog>
</template>

<style scoped>
.acts {
  display: flex;
  gap: 8px;
  margin-top: 8px;
}
form {
  display: grid;
  gap: 14px;
}
.give {
  align-self: start;
  justify-self: start;
}
</style>
