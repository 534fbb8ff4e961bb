<script setup lang="ts">
import Button from 'primevue/button'
import { ref } from 'vue'
import { useRoute, useRouter } from 'vue-router'
import { errorText } from '../../api/client'

/** The card of whoever comes in: what is asked for stands inside, and where it leads is where they wanted to go. */
const props = defineProps<{ words: string; button: string; enter: () => Promise<void> }>()
const emit = defineEmits<{ refused: [] }>()
const route = useRoute()
const router = useRouter()
const error = ref('')
const busy = ref(false)

async function go() {
  busy.value = true
  error.value = ''
  try {
    await props.enter()
    const then = String(route.query.then ?? '/dockets')
    await router.push(then.startsWith('/') && !then.startsWith('//') ? then : '/dockets')
  } catch (problem) {
    error.value = errorText(problem)
    emit('refused')
  } finally {
    busy.value = false
  }
}
</script>

<template>
  <div class="page">
    <form @submit.prevent="go">
      <svg class="sign" width="34" height="96" viewBox="0 0 34 96" aria-hidden="true">
        <clipPath id="sign"><rect x="1" y="1" width="32" height="94" rx="13" /></clipPath>
        <g clip-path="url(#sign)">
          <rect class="a" width="34" height="20" />
          <rect class="b" y="23" width="34" height="48" />
          <rect class="c" y="74" width="34" height="22" />
        </g>
      </svg>
      <h1>evrel</h1>
      <p class="muted">{{ words }}</p>
      <slot />
      <p v-if="error" class="message" role="alert">{{ error }}</p>
      <Button type="submit" :label="button" :disabled="busy" />
    </form>
  </div>
</template>

<style scoped>
.page {
  flex: 1;
  display: grid;
  place-items: center;
  padding: 24px;
}
form {
  width: 340px;
  display: grid;
  gap: 14px;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-radius: 10px;
  padding: 30px 32px 34px;
  position: relative;
}
.sign {
  position: absolute;
  right: 30px;
  top: -24px;
}
h1 {
  font-size: 34px;
  font-weight: 800;
  letter-spacing: -0.03em;
  line-height: 1;
}
.a {
  fill: var(--r-startup);
}
.b {
  fill: var(--r-system);
}
.c {
  fill: var(--r-recovery);
}
</style>
