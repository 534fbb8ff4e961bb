<script setup lang="ts">
import type { ComputerHistory } from '../api/types'
import { bytes, moment } from '../words/format'
import { useHistory } from './useHistory'

/** What a computer has been through. */
const props = defineProps<{ id: string }>()
const { history, error } = useHistory<ComputerHistory>(
  () => `/computers/${props.id}/history`,
  (one) => one.name,
)
</script>

<template>
  <div class="history scroll">
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <template v-if="history">
      <h1>
        {{ history.name
        }}<span class="muted small">{{
          [history.place, history.model, history.firmware.toUpperCase(), history.identity].filter(Boolean).join(' · ')
        }}</span>
      </h1>
      <div class="columns">
        <section aria-label="Dockets">
          <h2>Dockets</h2>
          <table v-if="history.dockets.length" class="list">
            <tbody>
              <tr v-for="one in history.dockets" :key="one.id">
                <td>
                  <RouterLink :to="`/dockets/${one.id}`" class="mono">{{ one.number }}</RouterLink>
                </td>
                <td>
                  {{ one.cause }}
                  <div class="small muted">opened {{ moment(one.opened_at) }}</div>
                </td>
                <td>
                  {{ one.closed_at ? `signed off ${moment(one.closed_at)}` : `at ${one.state}` }}
                  <div class="small muted">{{ one.proof }}</div>
                </td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None yet.</p>
        </section>
        <section aria-label="Drives and images">
          <h2>Drives</h2>
          <table v-if="history.drives.length" class="list">
            <tbody>
              <tr v-for="one in history.drives" :key="one.id">
                <td>
                  <RouterLink :to="`/drives/${one.id}`" class="mono">{{ one.serial }}</RouterLink>
                </td>
                <td>{{ one.name }}</td>
                <td class="right">{{ bytes(one.capacity) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None is known.</p>
          <h2>Images</h2>
          <table v-if="history.images.length" class="list">
            <tbody>
              <tr v-for="one in history.images" :key="one.id">
                <td>{{ moment(one.taken_at) }}</td>
                <td>{{ one.shelf }}</td>
                <td>{{ one.state }}</td>
                <td class="right">{{ bytes(one.used_bytes) }}</td>
              </tr>
            </tbody>
          </table>
          <p v-else class="muted">None is known.</p>
        </section>
      </div>
    </template>
    <p v-else-if="!error" class="empty" role="status">Loading…</p>
  </div>
</template>
