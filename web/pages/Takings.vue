<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { State, Taking } from '../api/types'
import ListPage from '../parts/common/ListPage.vue'
import StateMark from '../parts/common/StateMark.vue'
import { passWords, percent, phase, title } from '../parts/takings/words'
import { ago, bytes, range } from '../words/format'

/** Images that are being taken, and the last that were. */
const takings = ref<Taking[] | null>(null)
const error = ref('')

async function load() {
  try {
    takings.value = await api.get<Taking[]>('/takings')
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

function mark(one: Taking): State | null {
  if (one.state === 'failed' || one.image?.state === 'damaged') return 'no'
  if (one.state === 'paused' || one.summary?.unread) return 'ask'
  return one.state === 'done' && phase(one) === 'over' ? 'ok' : null
}

function left(one: Taking): string {
  if (one.state === 'failed') return one.error ?? ''
  if (one.state !== 'running') return ''
  if (one.progress.pass) return passWords(one)
  return one.left ? `${range(one.left.low, one.left.high)} left` : 'Measuring…'
}

useLive({
  taking: (next) => {
    const at = takings.value?.findIndex((one) => one.id === next.id) ?? -1
    if (at >= 0) takings.value![at] = next
    else load()
  },
  images: () => takings.value?.some((one) => phase(one) === 'checks') && load(),
  back: load,
})
load()
</script>

<template>
  <ListPage
    title="Images that are taken"
    :sub="takings ? 'Those that are not over, and the last twenty' : undefined"
    :error="error"
  >
    <template #corner><RouterLink class="btn" to="/bench">Choose a drive…</RouterLink></template>
    <div v-if="takings?.length === 0" class="empty">
      <b>No image was taken yet</b><span>Choose a drive on the Bench, and there “Take an image…”.</span
      ><RouterLink class="btn" to="/bench">To the Bench</RouterLink>
    </div>
    <table v-else-if="takings" class="list">
      <thead>
        <tr>
          <th>Of</th>
          <th>Drive</th>
          <th>Onto</th>
          <th>State</th>
          <th class="right">Done</th>
          <th>Left</th>
          <th>Asked for</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in takings" :key="one.id">
          <td>
            <RouterLink :to="`/takings/${one.id}`"
              ><b>{{ one.drive.computer ?? 'No computer' }}</b></RouterLink
            >
          </td>
          <td>
            {{ one.drive.maker }} {{ one.drive.model }}, {{ bytes(one.drive.capacity) }}
            <span class="small muted">port {{ one.drive.port }}</span>
          </td>
          <td>{{ one.shelf }}</td>
          <td>
            <span class="state"><StateMark v-if="mark(one)" :state="mark(one)!" />{{ title(one) }}</span>
          </td>
          <td class="right">{{ ['queued', 'stopped'].includes(one.state) ? '–' : `${percent(one)} %` }}</td>
          <td class="small">{{ left(one) }}</td>
          <td>{{ ago(one.at) }} by {{ one.by }}</td>
        </tr>
      </tbody>
    </table>
  </ListPage>
</template>

<style scoped>
.state {
  display: flex;
  gap: 7px;
}
</style>
