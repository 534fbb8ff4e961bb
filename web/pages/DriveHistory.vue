<script setup lang="ts">
import type { DriveHistory } from '../api/types'
import { bytes, moment, span } from '../words/format'
import { useHistory } from './useHistory'

/** What a drive has been through. */
const KINDS: Record<string, string> = {
  count: 'Counted what is on it',
  save: 'Files saved',
  measure: 'Measured for an image',
  image: 'Image taken',
  clean: 'Cleaned',
  capacity: 'Capacity tested',
}
const props = defineProps<{ id: string }>()
const { history, error } = useHistory<DriveHistory>(
  () => `/drives/${props.id}/history`,
  (one) => one.serial,
)
</script>

<template>
  <div class="history scroll">
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <template v-if="history">
      <h1>
        <span class="mono">{{ history.serial }}</span><span class="muted small">{{
          [
            history.name,
            bytes(history.capacity),
            history.bus,
            history.owner ? `of ${history.owner}` : null,
            history.port
              ? `in port ${history.port}`
              : history.last_seen_at
                ? `last seen ${moment(history.last_seen_at)}`
                : null,
          ]
            .filter(Boolean)
            .join(' · ')
        }}</span>
      </h1>
      <div class="columns">
        <section aria-label="Writes">
          <h2>What was written onto it</h2>
          <table v-if="history.writes.length" class="list">
            <tbody>
              <tr v-for="one in history.writes" :key="one.at">
                <td>
                  <RouterLink :to="`/dockets/${one.docket_id}/write`" class="mono">{{ one.number }}</RouterLink>
                </td>
                <td>
                  {{ one.computer }}
                  <div class="small muted">image of {{ moment(one.image_taken_at) }}</div>
                </td>
                <td>
                  {{ moment(one.at) }}
                  <div class="small muted">{{ one.verified ? `verified, ${span(one.seconds ?? 0)}` : one.state }}</div>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">Nothing.</p>
          <h2>What was done with it besides</h2>
          <table v-if="history.tasks.length" class="list">
            <tbody>
              <tr v-for="one in history.tasks" :key="one.at + one.kind">
                <td>{{ KINDS[one.kind] ?? one.kind }}</td>
                <td>{{ one.state }}</td>
                <td>{{ moment(one.at) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">Nothing.</p>
        </section>
        <section aria-label="Sightings">
          <h2>Where it was seen</h2>
          <table v-if="history.sightings.length" class="list">
            <tbody>
              <tr v-for="one in history.sightings" :key="one.from">
                <td>Port {{ one.port }}</td>
                <td>{{ moment(one.from) }}</td>
                <td class="muted">to {{ moment(one.until) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">Nowhere yet.</p>
        </section>
      </div>
    </template>
    <p v-else-if="!error" class="empty" role="status">Loading…</p>
  </div>
</template>

<style scoped>
.history {
  --columns: 1.3fr 1fr;
}
</style>
