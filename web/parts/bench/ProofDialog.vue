<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { ProofWish, StartView } from '../../api/types'

/** What a started system of this computer is asked, and what its hardware is. */
const props = defineProps<{ proof: ProofWish; hardware: string | null; docket: number; computer: string }>()
const emit = defineEmits<{ kept: [view: StartView] }>()
const open = defineModel<boolean>({ required: true })
const user = ref('')
const password = ref('')
const command = ref('')
const expected = ref('')
const list = ref('')
const error = ref('')

watch(open, (now) => {
  if (!now) return
  user.value = props.proof.user ?? 'root'
  password.value = ''
  command.value = props.proof.command ?? ''
  expected.value = props.proof.expect ?? ''
  list.value = props.hardware ?? ''
  error.value = ''
})

async function keep() {
  error.value = ''
  try {
    const wish = {
      user: user.value,
      command: command.value,
      expect: expected.value,
      ...(password.value ? { password: password.value } : {}),
    }
    let view = await api.patch<StartView>(`/dockets/${props.docket}/proof`, wish)
    if (list.value.trim() !== (props.hardware ?? ''))
      view = await api.patch<StartView>(`/dockets/${props.docket}/hardware`, { hardware: list.value })
    emit('kept', view)
    open.value = false
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog v-model:visible="open" modal :header="`What ${computer} has to show`" :style="{ width: '640px' }">
    <form class="form" @submit.prevent="keep">
      <p class="small muted">
        When the log-in prompt is reached, a trial start logs in, gives this command, and waits for the text. It stands
        in the record as the proof.
      </p>
      <div class="pair">
        <label class="field">Log in as<input v-model="user" maxlength="200" autocomplete="off" /></label
        ><label class="field"
          >Password<input
            v-model="password"
            type="password"
            maxlength="200"
            autocomplete="new-password"
            :placeholder="proof.password ? 'Kept; type to change it' : 'None'"
        /></label>
      </div>
      <div class="pair">
        <label class="field"
          >Command<input v-model="command" maxlength="200" class="mono" placeholder="ls /srv" /></label
        ><label class="field"
          >Text that must come<input v-model="expected" maxlength="200" class="mono" placeholder="tickets"
        /></label>
      </div>
      <label class="field"
        >Hardware of the computer, as lspci -nn -k prints it<textarea
          v-model="list"
          rows="6"
          class="mono"
          placeholder="Empty: nothing is known of it"
        />
      </label>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <div class="row">
        <button type="button" class="btn" @click="open = false">Leave it</button
        ><button type="submit" class="btn go push">Keep it</button>
      </div>
    </form>
  </Dialog>
</template>

<style scoped>
.form {
  display: grid;
  gap: 12px;
}
.pair {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 12px;
}
.row {
  display: flex;
}
textarea {
  resize: vertical;
  font-size: 12px;
}
</style>
