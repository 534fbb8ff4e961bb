<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { ref } from 'vue'
import DoorCard from '../parts/people/DoorCard.vue'
import { useSession } from '../session'

const session = useSession()
const name = ref('')
const password = ref('')
</script>

<template>
  <DoorCard
    words="From a saved disk image to a computer that starts, and the proof of it."
    button="Sign in"
    :enter="() => session.signIn(name, password)"
    @refused="password = ''"
  >
    <label class="field"
      >Sign-in<InputText v-model="name" name="sign_in" autocomplete="username" autofocus required
    /></label>
    <label class="field"
      >Password<InputText v-model="password" name="password" type="password" autocomplete="current-password" required
    /></label>
  </DoorCard>
</template>
