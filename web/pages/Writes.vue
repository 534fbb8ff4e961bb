<script setup lang="ts">
import { ref } from 'vue'
import { api, errorText } from '../api/client'
import { useLive } from '../api/live'
import type { OpenWrite } from '../api/types'
import Milestones from '../parts/common/Milestones.vue'
import StandsStill from '../parts/common/StandsStill.vue'
import { range, span } from '../words/format'
import { done as share } from '../words/progress'

/** All writes of the bench in type that can be read from three metres. */
const writes = ref<OpenWrite[] | null>(null)
const error = ref('')
const STATES = {
  queued: 'Waiting',
  running: 'Writing',
  paused: 'Paused',
  stopped: 'Stopped',
  failed: 'Needs you',
  done: 'Verified',
}

async function load() {
  try {
    writes.value = await api.get<OpenWrite[]>('/writes')
    error.value = ''
  } catch (problem) {
    error.value = errorText(problem)
  }
}

function said(write: OpenWrite): string {
  if (write.state === 'running') return write.left ? `${range(write.left.low, write.left.high)} left` : 'Measuring…'
  if (write.state === 'done' && write.started_at && write.finished_at)
    return `${span((Date.parse(write.finished_at) - Date.parse(write.started_at)) / 1000)} in all`
  return STATES[write.state]
}

useLive({
  write: (next) => {
    const known = writes.value?.find((one) => one.id === next.id)
    if (known && known.progress.order === next.progress.order) Object.assign(known, next)
    else load()
  },
  event: (event) => {
    if (event.kind.startsWith('write_')) load()
  },
  back: load,
})
load()
</script>

<template>
  <section class="page">
    <h1 class="unseen">All writes</h1>
    <p v-if="error" class="message" role="alert">{{ error }}</p>
    <p v-else-if="writes?.length === 0" class="none">
      Nothing is being written.<br /><RouterLink to="/dockets">To the dockets</RouterLink>
    </p>
    <ul v-else>
      <li v-for="write in writes" :key="write.id" :class="write.state">
        <RouterLink :to="`/dockets/${write.docket_id}/write`">
          <span class="percent">{{ write.state === 'done' ? 100 : share(write.progress) }}<small> %</small></span>
          <span class="what"
            ><b>{{ write.computer }}</b
            ><span>{{ write.port ? `Port ${write.port}` : 'Not begun' }} · …{{ write.label }}</span></span
          >
          <span class="when"
            ><b>{{ said(write) }}</b
            ><span>{{
              write.state === 'failed'
                ? (write.trouble?.message ?? write.error)
                : write.state === 'running'
                  ? write.order
                  : STATES[write.state]
            }}</span></span
          >
          <Milestones
            :percent="share(write.progress)"
            :step="`${write.computer}: ${STATES[write.state]}`"
            :running="write.state === 'running'"
          />
          <StandsStill class="afar" :work="`write-${write.id}`" :running="write.state === 'running'" />
          <span class="bar" aria-hidden="true"
            ><i :style="{ width: `${write.state === 'done' ? 100 : share(write.progress)}%` }"
          /></span>
        </RouterLink>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.page {
  flex: 1;
  min-height: 0;
  overflow: auto;
  padding: 20px 28px;
}
ul {
  list-style: none;
  margin: 0;
  padding: 0;
  display: grid;
  gap: 18px;
}
a {
  color: inherit;
  text-decoration: none;
}
li a {
  display: grid;
  grid-template-columns: 270px minmax(0, 1fr) minmax(0, 1.2fr);
  gap: 4px 28px;
  align-items: center;
  background: var(--sheet);
  border: 1px solid var(--rule);
  border-left: 12px solid var(--spruce);
  border-radius: 10px;
  padding: 14px 24px 18px;
}
.percent {
  font-size: 104px;
  font-weight: 800;
  line-height: 1;
  font-variant-numeric: tabular-nums;
}
small {
  font-size: 48px;
}
b {
  display: block;
  font-size: 46px;
  line-height: 1.15;
  overflow-wrap: anywhere;
}
.when > span::first-letter {
  text-transform: uppercase;
}
.what > span,
.when > span {
  display: block;
  font-size: 26px;
  color: var(--ink2);
  overflow-wrap: anywhere;
}
.afar {
  grid-column: 1 / -1;
  font-size: 24px;
}
.bar {
  grid-column: 1 / -1;
  height: 16px;
  border-radius: 8px;
  background: var(--fold);
  overflow: hidden;
}
.bar i {
  display: block;
  height: 100%;
  background: var(--spruce);
}
.failed a {
  border-left-color: var(--crimson);
  background: var(--crimson-l);
}
.queued a,
.paused a,
.stopped a {
  border-left-color: var(--ochre);
}
.failed .bar i {
  background: var(--crimson);
}
.none {
  font-size: 40px;
  text-align: center;
  margin-top: 120px;
}
.none a {
  font-size: 24px;
  text-decoration: underline;
}
.unseen {
  position: absolute;
  width: 1px;
  height: 1px;
  overflow: hidden;
  clip-path: inset(50%);
}
@media (max-width: 700px) {
  .page {
    padding: 12px;
  }
  li a {
    grid-template-columns: minmax(0, 1fr);
    padding: 10px 14px 14px;
    border-left-width: 8px;
  }
  .percent {
    font-size: 64px;
  }
  .percent small {
    font-size: 30px;
  }
  b {
    font-size: 24px;
  }
  .what > span,
  .when > span {
    font-size: 16px;
  }
}
</style>
