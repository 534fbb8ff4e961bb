<script setup lang="ts">
import { ref } from 'vue'
import DoorCard from '../parts/people/DoorCard.vue'
import NewPassword from '../parts/people/NewPassword.vue'
import { useSession } from '../session'

/** The code stands behind the #, so that no log of a server holds it. */
const code = window.location.hash.slice(1)
const session = useSession()
const password = ref('')
</script>

<template>
  <DoorCard
    words="You are expected: choose the password that you sign in with from now on."
    button="Choose it, and come in"
    :enter="() => session.byLink(code, password)"
  >
    <NewPassword v-model="password" autofocus />
  </DoorCard>
</template>
