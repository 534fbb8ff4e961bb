<script setup lang="ts">
import { computed, ref, watch } from 'vue'
import type { PersonWithLink } from '../../api/types'
import { moment } from '../../words/format'

/** A link that works once, to be handed to whom it is for: it is shown here and nowhere else. */
const props = defineProps<{ for: PersonWithLink }>()
defineEmits<{ close: [] }>()
const address = computed(() => `${window.location.origin}${props.for.link}`)
const copied = ref(false)
watch(
  () => props.for,
  () => (copied.value = false),
)

async function copy(field: EventTarget | null) {
  ;(field as HTMLInputElement | null)?.select()
  copied.value = await navigator.clipboard.writeText(address.value).then(
    () => true,
    () => false,
  )
}
</script>

<template>
  <div class="message ask link" role="status">
    <span
      >For <b>{{ props.for.person.name }}</b>: works once, until
      {{ props.for.person.link_until && moment(props.for.person.link_until) }}</span
    >
    <input class="mono" readonly :value="address" aria-label="The link" @focus="copy($event.target)" />
    <button type="button" class="btn slim" @click="copy(null)">{{ copied ? 'Copied' : 'Copy' }}</button>
    <button type="button" class="btn slim" @click="$emit('close')">Done</button>
  </div>
</template>

<style scoped>
.link {
  display: flex;
  align-items: center;
  gap: 10px;
}
.link input {
  flex: 1;
  min-width: 0;
}
</style>
