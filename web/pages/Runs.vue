<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { RunHead } from '../api/types'
import ListPage from '../parts/common/ListPage.vue'
import { ago, dated } from '../words/format'

/** All runs, the newest first. */
const runs = ref<RunHead[] | null>(null)
const error = ref('')

async function load() {
  try {
    runs.value = await api.get<RunHead[]>('/runs')
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

useLive({ event: load, back: load })
load()
</script>

<template>
  <ListPage title="Runs" sub="One image onto many drives, each with a docket of its own" :error="error">
    <template #corner><RouterLink class="btn" to="/images">Choose an image…</RouterLink></template>
    <div v-if="runs?.length === 0" class="empty">
      <b>There is no run yet</b><span>Choose an image, and there “Onto many drives…”.</span
      ><RouterLink class="btn" to="/images">To the images</RouterLink>
    </div>
    <table v-else-if="runs" class="list">
      <thead>
        <tr>
          <th>Run</th>
          <th>Image</th>
          <th class="right">Verified</th>
          <th>Why</th>
          <th>Begun</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="run in runs" :key="run.id">
          <td>
            <RouterLink :to="`/runs/${run.id}`"
              ><b>{{ run.number }}</b></RouterLink
            >
          </td>
          <td>{{ run.image.computer ?? 'An unknown computer' }}, {{ dated(run.image.taken_at) }}</td>
          <td class="right">{{ run.written }} of {{ run.count }}</td>
          <td>{{ run.reason }}</td>
          <td>{{ ago(run.at) }} by {{ run.technician }}</td>
        </tr>
      </tbody>
    </table>
  </ListPage>
</template>
