<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../../api/client'
import type { Run, RunNames } from '../../api/types'

/** What is set in the systems of a run: what stood there, and what stands there then, for the first three. */
const props = defineProps<{ run: Run }>()
const names = ref<RunNames[] | null>(null)
const error = ref('')

async function show(event: Event) {
  if (!(event.target as HTMLDetailsElement).open || names.value) return
  try {
    names.value = await api.get<RunNames[]>(`/runs/${props.run.id}/names`)
  } catch (problem) {
    error.value = errorText(problem)
  }
}
</script>

<template>
  <details class="small" @toggle="show">
    <summary>
      Each system gets the name of its computer{{ run.templates.length ? `, and ${run.templates.join(', ')}` : '' }}:
      see what is set in the first three
    </summary>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <p v-else-if="!names" role="status">Reading the image…</p>
    <section v-for="one in names" :key="one.computer">
      <h2>{{ one.computer }}</h2>
      <div v-for="file in one.files" :key="file.path" class="file">
        <span class="mono">{{ file.path }}</span>
        <del class="mono">{{ file.before }}</del>
        <ins class="mono">{{ file.after || 'empty: made anew at the first start' }}</ins>
      </div>
    </section>
  </details>
</template>

<style scoped>
summary {
  cursor: pointer;
  color: var(--ink2);
}
h2 {
  font-size: 13px;
  margin: 8px 0 2px;
}
.file {
  display: grid;
  grid-template-columns: 220px minmax(0, 1fr) minmax(0, 1fr);
  gap: 12px;
  border-bottom: 1px solid var(--fold);
  padding: 3px 0;
  font-size: 12.5px;
}
.file > * {
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  text-decoration: none;
}
del {
  color: var(--ink2);
}
</style>
