<script setup lang="ts">
import { computed } from 'vue'
import type { Write, WriteView } from '../../api/types'
import Curve from '../../drawing/Curve.vue'
import { bytes, clock, range, span, speed } from '../../words/format'
import { isRunning, orderAt, toWrite } from '../../words/orders'
import { done } from '../../words/progress'
import { PASSES } from '../takings/words'
import Milestones from '../common/Milestones.vue'
import StandsStill from '../common/StandsStill.vue'

/** What a write has reached: percent, time left, pace, and its speeds as a curve. */
const props = defineProps<{ write: Write; view: WriteView; title: string }>()
const LIMITS = {
  target: 'the target sets the pace',
  processor: 'the processor sets the pace',
  shelf: 'the shelf sets the pace',
}
const orders = computed(() => props.view.orders ?? [])
const running = computed(() => isRunning(props.write))
const over = computed(() => props.write.state === 'done')
const percent = computed(() => (over.value ? 100 : done(props.write.progress)))
const said = computed(() => props.view.expected && `said ${range(props.view.expected.low, props.view.expected.high)}`)
const back = computed(() => props.write.progress.back)
const left = computed(() => {
  if (back.value) return 'No telling how long'
  if (props.write.left) return `${range(props.write.left.low, props.write.left.high)} left`
  if (props.write.state !== 'queued') return 'Measuring…'
  return props.view.before ? `Waits for ${props.view.before} before it` : 'Waiting for the worker'
})
const seconds = computed(() =>
  props.write.started_at && props.write.finished_at
    ? (Date.parse(props.write.finished_at) - Date.parse(props.write.started_at)) / 1000
    : 0,
)
const pace = computed(() => {
  if (back.value) return 'asking the drive again'
  const limit = props.write.progress.limit
  if (limit) return LIMITS[limit]
  return orders.value[orderAt(orders.value, props.write)]?.kind === 'read_back' ? 'reading back' : 'writing'
})
</script>

<template>
  <div class="figures">
    <div>
      <b class="huge">{{ percent }} %</b
      ><span>{{ bytes(write.progress.written ?? 0) }} of {{ bytes(toWrite(orders)) }} written</span>
    </div>
    <div v-if="running">
      <b>{{ left }}</b><span>{{ said ? `${said} in all` : 'no write measured here before' }}</span>
    </div>
    <div v-else-if="over">
      <b>{{ span(seconds) }} in all</b><span>{{ said ?? 'the first write measured here' }}</span>
    </div>
    <div class="last">
      <b>{{ running ? speed(write.progress.speed ?? 0) : over ? 'Verified' : 'Not whole' }}</b><span>{{
        running ? pace : over ? 'read back from the disk itself' : 'no partition table on it'
      }}</span>
    </div>
  </div>
  <p v-if="running && back">
    Back to what the drive did not give at once:
    <b>{{ PASSES[back.pass].toLowerCase() }}</b>, {{ bytes(back.skipped) }} still to ask for<template v-if="back.bad"
      >, {{ bytes(back.bad) }} not to be had</template
    >.
  </p>
  <Milestones :percent="percent" :step="title" :running="running" />
  <p><StandsStill :work="`write-${write.id}`" :running="write.state === 'running'" /></p>
  <Curve
    v-if="write.speeds.length > 1 && !write.trouble"
    :values="write.speeds"
    :from="write.started_at ? clock(write.started_at) : ''"
    :to="write.finished_at ? clock(write.finished_at) : 'now'"
  />
</template>
