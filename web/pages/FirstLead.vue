<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { reactive } from 'vue'
import DoorCard from '../parts/people/DoorCard.vue'
import NewPassword from '../parts/people/NewPassword.vue'
import { useSession } from '../session'

const session = useSession()
const given = reactive({ code: '', name: '', sign_in: '', password: '' })
</script>

<template>
  <DoorCard
    words="Nobody works here yet. The code in the terminal, from which Evrel was started, makes you its first lead."
    button="Begin"
    :enter="() => session.becomeFirst({ ...given })"
  >
    <label class="field"
      >Code<InputText v-model="given.code" name="code" class="mono" autocomplete="off" autofocus required
    /></label>
    <label class="field">Your name<InputText v-model="given.name" autocomplete="name" maxlength="80" required /></label>
    <label class="field"
      >Sign-in<InputText
        v-model="given.sign_in"
        autocomplete="username"
        maxlength="40"
        pattern="[a-z0-9][a-z0-9._\-]*"
        title="Small letters, digits, dots and dashes"
        required
    /></label>
    <NewPassword v-model="given.password" />
  </DoorCard>
</template>
