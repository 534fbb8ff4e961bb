<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { api } from '../../api/client'
import { useLive } from '../../api/live'
import type { NightTold } from '../../api/types'

/** What became of the proofs of the last night, and which computers do not start as they once did. */
const told = shallowRef<NightTold | null>(null)

const load = () =>
  api
    .get<NightTold>('/readiness/told')
    .then((next) => (told.value = next))
    .catch(() => undefined)

const night = computed(() => {
  const last = told.value?.night
  if (!last) return ''
  const proved = `${last.proved} ${last.proved === 1 ? 'computer' : 'computers'} proved at night`
  return last.others ? `${proved}, ${last.others} not: ${last.lines.map((one) => one.computer).join(', ')}` : proved
})

useLive({ event: (event) => /^(proof|night)/.test(event.kind) && load(), back: load })
load()
</script>

<template>
  <div v-if="night || told?.news.length" class="news">
    <p v-for="one in told!.news" :key="one.computer_id" class="message" role="status">
      <b>Not as before:</b> {{ one.message }}.
      <RouterLink :to="`/computers/${one.computer_id}`">{{ one.computer }}</RouterLink>
    </p>
    <p v-if="night" class="small muted">{{ night }}. <RouterLink to="/readiness">Readiness</RouterLink></p>
  </div>
</template>

<style scoped>
.news {
  display: grid;
  gap: 6px;
}
</style>
