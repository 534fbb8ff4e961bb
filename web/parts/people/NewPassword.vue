<script setup lang="ts">
import InputText from 'primevue/inputtext'
import { computed } from 'vue'

/** A password that is chosen, with the rule that the server holds it against. */
defineProps<{ autofocus?: boolean }>()
const password = defineModel<string>({ required: true })
const SHORTEST = 12
const missing = computed(() => Math.max(0, SHORTEST - [...password.value].length))
</script>

<template>
  <label class="field"
    >New password<InputText
      v-model="password"
      name="new_password"
      type="password"
      autocomplete="new-password"
      required
      :minlength="SHORTEST"
      :autofocus="autofocus"
    /><span class="small muted">{{
      missing && password
        ? `${missing} more ${missing === 1 ? 'character' : 'characters'}`
        : 'Twelve characters or more: four words that do not belong together, say.'
    }}</span></label
  >
</template>
