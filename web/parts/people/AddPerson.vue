<script setup lang="ts">
import Dialog from 'primevue/dialog'
import { reactive, ref, watch } from 'vue'
import { api, errorText } from '../../api/client'
import type { PersonWithLink } from '../../api/types'
import { roles, type Role } from './roles'

const visible = defineModel<boolean>('visible', { required: true })
const emit = defineEmits<{ added: [made: PersonWithLink] }>()
const given = reactive({ name: '', sign_in: '', role: 'technician' as Role })
const error = ref('')

watch(visible, () => {
  error.value = ''
  Object.assign(given, { name: '', sign_in: '', role: 'technician' })
})

/** "Tove Lind" → "tove", until something else was typed. */
watch(
  () => given.name,
  (name, before) => {
    if (given.sign_in === short(before)) given.sign_in = short(name)
  },
)

const short = (name: string) =>
  (name.trim().split(/\s+/)[0] ?? '')
    .toLowerCase()
    .normalize('NFD')
    .replace(/[^a-z0-9]/g, '')

async function add() {
  try {
    emit('added', await api.post<PersonWithLink>('/people', { ...given }))
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <Dialog v-model:visible="visible" modal header="Add somebody" :style="{ width: '440px' }">
    <form @submit.prevent="add">
      <label class="field">Name<input v-model="given.name" autofocus maxlength="80" required /></label>
      <label class="field"
        >Sign-in<input
          v-model="given.sign_in"
          class="mono"
          maxlength="40"
          pattern="[a-z0-9][a-z0-9._\-]*"
          title="Small letters, digits, dots and dashes"
          required
      /></label>
      <fieldset>
        <legend>May</legend>
        <label v-for="(role, key) in roles" :key="key"
          ><input v-model="given.role" type="radio" name="role" :value="key" /> <b>{{ role.name }}</b>
          <span class="muted">{{ role.does }}</span></label
        >
      </fieldset>
      <p class="small muted">A link is made for them, by which they choose their own password.</p>
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <button type="submit" class="btn go">Add, and make the link</button>
    </form>
  </Dialog>
</template>

<style scoped>
form {
  display: grid;
  gap: 14px;
}
fieldset {
  border: 0;
  padding: 0;
  margin: 0;
  display: grid;
  gap: 6px;
}
legend {
  padding: 0;
  margin-bottom: 4px;
  font-size: 14px;
  color: var(--ink2);
}
</style>
