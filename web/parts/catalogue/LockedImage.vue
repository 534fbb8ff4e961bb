<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Image } from '../../api/types'
import { moment } from '../../words/format'
import { vMay } from '../../words/may'

/** An image that a passphrase opens: asked for here, and kept nowhere but in the memory of the server, for the day. */
const props = defineProps<{ image: Pick<Image, 'id' | 'lock'> }>()
const emit = defineEmits<{ changed: [image: Image] }>()
const passphrase = ref('')
const error = ref('')
const busy = ref(false)
const path = () => `/images/${props.image.id}/unlock`

async function attempt(request: () => Promise<Image>) {
  error.value = ''
  busy.value = true
  try {
    emit('changed', await request())
  } catch (problem) {
    error.value = errorText(problem)
  } finally {
    passphrase.value = ''
    busy.value = false
  }
}
const open = () => attempt(() => api.post<Image>(path(), { passphrase: passphrase.value }))
const names = (wanted: boolean) => attempt(() => api.put<Image>(`/images/${props.image.id}/names`, { wanted }))
const lock = () => attempt(() => api.delete<Image>(path()))
</script>

<template>
  <section class="lock small" aria-label="Passphrase">
    <template v-if="image.lock!.open">
      <span>Open for the rest of the day.</span>
      <button v-may="'technician'" type="button" class="btn slim push" :disabled="busy" @click="lock">
        Lock it again
      </button>
    </template>
    <form v-else @submit.prevent="open">
      <label
        >Passphrase<input
          v-model="passphrase"
          type="password"
          autocomplete="off"
          maxlength="512"
          required
          :disabled="busy"
      /></label>
      <button v-may="'technician'" type="submit" class="btn slim" :disabled="busy || !passphrase">
        {{ busy ? 'Trying it…' : 'Open it' }}
      </button>
    </form>
    <span class="muted">{{
      image.lock!.opened_at
        ? `Known to open: last opened ${moment(image.lock!.opened_at)}`
        : 'Nobody was seen to open it here yet'
    }}</span>
    <label v-if="image.lock!.open || image.lock!.names" class="names"
      ><input
        v-may="'technician'"
        type="checkbox"
        :checked="image.lock!.names"
        :disabled="busy"
        @change="names(($event.target as HTMLInputElement).checked)"
      />
      The names of its files are in the search, which asks for no passphrase</label
    >
    <p v-if="error" class="message" role="alert">{{ error }}</p>
  </section>
</template>

<style scoped>
.lock {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 10px;
  align-items: center;
}
form {
  display: flex;
  gap: 8px;
  align-items: end;
}
label.names {
  display: flex;
  gap: 6px;
  color: var(--ink);
}
form label {
  display: grid;
  gap: 2px;
  color: var(--ink2);
}
</style>
